import { Check, X } from 'lucide-react';
import { counted } from '../../../core/text/counted';
import { useReviewing, type ReviewLineTold } from '../../client/access-reviews';
import { problemText } from '../../client/http';
import { minuteText } from '../../records/member-words';
import { Button } from '../../ui/Button';
import { Notice } from '../../ui/Notice';
import { ReasonDialog } from '../../ui/ReasonDialog';
import { useBench } from '../bench/bench-context';
import { useNames, type Names } from '../bench/names';

/** A line of an access review, with what was signed of it or the ways to sign it. */
export function ReviewedLine({
  review,
  place,
  line,
  mine,
}: {
  review: number;
  place: number;
  line: ReviewLineTold;
  /** Whether whoever looks is the one who signs. */
  mine: boolean;
}) {
  const { slug } = useBench();
  const names = useNames();
  const { sign } = useReviewing(slug);
  const { signed, table } = line;
  const title = table === null ? 'Who has it' : names.table(table);
  const send = (says: 'right' | 'wrong', remark: string, done?: () => void) =>
    sign.mutate({ review, line: place, says, remark }, { onSuccess: done });
  return (
    <div className="grid gap-1 rounded-stone border border-line bg-paper px-3 py-2 sm:grid-cols-[1fr_auto]">
      <div className="grid gap-0.5">
        <h3 className="text-sm font-semibold">{title}</h3>
        {line.people && <People people={line.people} />}
        {line.rights && <Rights line={line} names={names} />}
        {signed && (
          <p className="text-sm text-soft">
            {signed.says === 'right' ? 'Right' : 'Wrong'}, says {signed.by} on {minuteText(signed.at)}
            {signed.remark !== '' && `: ${signed.remark}`}
          </p>
        )}
        {sign.isError && <Notice kind="fault">{problemText(sign.error)}</Notice>}
      </div>
      {!signed && mine && (
        <div className="no-print flex items-start gap-1.5">
          <Button
            small
            disabled={sign.isPending}
            aria-label={`Right: ${names.role(line.role)}, ${title}`}
            onClick={() => send('right', '')}
          >
            <Check size={15} aria-hidden /> Right
          </Button>
          <ReasonDialog
            trigger={
              <Button small aria-label={`Wrong: ${names.role(line.role)}, ${title}`}>
                <X size={15} aria-hidden /> Wrong
              </Button>
            }
            title={`What is wrong with ${title}?`}
            says="It is kept with the review. Nothing is changed by it."
            label="What it should be"
            go="Sign it as wrong"
            fault={sign.isError ? problemText(sign.error) : null}
            onGo={(remark, done) => send('wrong', remark, done)}
          />
        </div>
      )}
    </div>
  );
}

function People({ people: { all, came, went, isFirst } }: { people: NonNullable<ReviewLineTold['people']> }) {
  if (isFirst)
    return (
      <details>
        <summary className="cursor-pointer">{counted(all, 'person', 'people')}</summary>
        <p className="max-h-40 overflow-y-auto text-sm">{came.join(', ')}</p>
      </details>
    );
  return (
    <p>
      {counted(all, 'person', 'people')}
      {came.length > 0 && <>; new since it was signed: {came.join(', ')}</>}
      {went.length > 0 && <>; no longer: {went.join(', ')}</>}
    </p>
  );
}

type Rights = NonNullable<ReviewLineTold['rights']>;

/** What they may do, each part on a line; what was signed before is said where it is another. */
function Rights({ line: { rights, wasRights, table }, names }: { line: ReviewLineTold; names: Names }) {
  const parts = wordsOf(rights!, table!, names);
  const before = wasRights ? new Map(wordsOf(wasRights, table!, names)) : null;
  const gone = before ? [...before].filter(([what]) => !parts.some(([each]) => each === what)) : [];
  return (
    <dl className="grid grid-cols-[7rem_1fr] gap-x-2 text-sm">
      {parts.map(([what, words]) => (
        <Part key={what} what={what} words={words} before={before && (before.get(what) ?? 'nothing')} />
      ))}
      {gone.map(([what, words]) => (
        <Part key={what} what={what} words="no longer" before={words} />
      ))}
    </dl>
  );
}

function Part({ what, words, before }: { what: string; words: string; before: string | null }) {
  return (
    <>
      <dt className="text-soft">{what}</dt>
      <dd className="min-w-0 break-words">
        {words}
        {before !== null && before !== words && (
          <span className="block font-medium text-iron">signed was: {before}</span>
        )}
      </dd>
    </>
  );
}

function wordsOf(rights: Rights, table: string, names: Names): [string, string][] {
  const columns = (of: readonly string[]) => of.map((column) => names.column(table, column)).join(', ');
  const masked = rights.masked.map(({ column, mask }) => `${names.column(table, column)} (${mask})`).join(', ');
  const does = [
    ...(rights.deletes ? ['delete'] : []),
    ...(rights.exports ? ['export'] : []),
    ...(rights.history ? ['read what changed'] : []),
    ...rights.does.map((name) => `“${name}”`),
  ];
  const parts: [string, string][] = [
    ['Rows', rights.rows],
    ['Sees whole', columns(rights.whole)],
    ['Sees masked', masked],
    ['Changes', columns(rights.changes)],
    ['Fills', columns(rights.fills)],
    ['Does', does.join(', ')],
    ['Comments', rights.comments.join(', ')],
    ['Files', rights.files.join(', ')],
  ];
  return parts.filter(([, words]) => words !== '');
}
