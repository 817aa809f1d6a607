import { useState } from 'react';
import { Undo2 } from 'lucide-react';
import { counted } from '../../core/text/counted';
import { listed } from '../../core/text/listed';
import { problemText, ServerProblem } from '../../web/client/http';
import {
  useHandOverCounts,
  useHandOverPeople,
  useHandOvers,
  useStewardAct,
  type HandOverInfo,
} from '../../web/client/stewards';
import { usePlace } from '../../web/place/place';
import { minuteText } from '../../web/records/member-words';
import { Button } from '../../web/ui/Button';
import { Combobox } from '../../web/ui/Combobox';
import { Field } from '../../web/ui/Field';
import { Notice, Skeleton } from '../../web/ui/Notice';
import { Question } from '../../web/ui/Question';
import type { ShowProps } from '../show';

type HandOverSectionInfo = ShowProps<'handover'>['section'];

interface Person {
  id: string;
  name: string;
}

/** Gives the records of one person to another, and takes back what was given lately. */
export default function HandOverShow({ section }: ShowProps<'handover'>) {
  const { base, seenBy } = usePlace();
  const [from, setFrom] = useState<Person | null>(null);
  const [to, setTo] = useState<Person | null>(null);
  const [round, setRound] = useState(0);
  const [done, setDone] = useState('');
  const counts = useHandOverCounts(base, section.steward, from?.id ?? null);
  const act = useStewardAct(base, (ask, body: { from: string; to: string }) =>
    ask('POST /hand-over/:steward', { params: { steward: section.steward }, body }),
  );
  if (!section.open) return <Notice kind="say">There is nothing here that you could hand over.</Notice>;
  const fields = act.error instanceof ServerProblem ? ((act.error.body.fields ?? {}) as Record<string, string>) : {};
  const all = counts.data?.reduce((sum, { records }) => sum + records, 0) ?? 0;
  const choose = (set: (person: Person) => void) => (person: Person) => {
    set(person);
    setDone('');
    act.reset();
  };
  const go = () =>
    act.mutate(
      { from: from!.id, to: to!.id },
      {
        onSuccess: (info) => {
          setDone(`${sentence(section, info)} from ${info.from} went to ${info.to}.`);
          setFrom(null);
          setTo(null);
          setRound(round + 1);
        },
      },
    );
  return (
    <div className="grid max-w-160 gap-4">
      <div key={round} className="grid gap-4 @min-[560px]:grid-cols-2">
        <PersonField label="From" steward={section.steward} fault={fields.from} onPick={choose(setFrom)} />
        <PersonField label="To" steward={section.steward} fault={fields.to} onPick={choose(setTo)} />
      </div>
      {from && counts.isPending && <Skeleton lines={1} />}
      {from && counts.data && (
        <p aria-live="polite">
          {all === 0
            ? `${from.name} has nothing that could be handed over.`
            : `${from.name} has ${tablesWords(section, counts.data)}.`}
        </p>
      )}
      {counts.isError && <Notice kind="fault">{problemText(counts.error)}</Notice>}
      {act.isError && Object.keys(fields).length === 0 && <Notice kind="fault">{problemText(act.error)}</Notice>}
      <div>
        <Question
          title={`Hand over ${counted(all, 'record')}?`}
          says={
            <p>
              {from && counts.data ? tablesWords(section, counts.data) : ''} of {from?.name} go to {to?.name}, all or
              none. You can take it back within a day.
            </p>
          }
          keep="Leave as it is"
          go={`Hand over to ${to?.name ?? ''}`}
          first="go"
          onGo={go}
          trigger={
            <Button weight="main" disabled={!from || !to || all === 0 || act.isPending || seenBy}>
              {act.isPending ? 'Handing over …' : 'Hand over …'}
            </Button>
          }
        />
      </div>
      <p role="status" className={done ? 'font-semibold text-lichen-ink' : 'sr-only'}>
        {done}
      </p>
      <Lately section={section} />
    </div>
  );
}

const labelOf = ({ tables }: HandOverSectionInfo, table: string): string =>
  (tables.find((each) => each.table === table)?.label ?? table).toLowerCase();

const tablesWords = (section: HandOverSectionInfo, tables: { table: string; records: number }[]): string =>
  listed(
    tables
      .filter(({ records }) => records > 0)
      .map(({ table, records }) => `${records.toLocaleString()} ${labelOf(section, table)}`),
  );

const sentence = (section: HandOverSectionInfo, { tables }: HandOverInfo): string => tablesWords(section, tables);

function PersonField({
  label,
  steward,
  fault,
  onPick,
}: {
  label: string;
  steward: string;
  fault: string | undefined;
  onPick: (person: Person) => void;
}) {
  const { base } = usePlace();
  const [search, setSearch] = useState('');
  const found = useHandOverPeople(base, steward, search);
  return (
    <Field label={label} fault={fault ?? (found.isError ? problemText(found.error) : null)}>
      {(ids) => (
        <Combobox
          label={label}
          first=""
          items={(found.data ?? []).map(({ id, name }) => ({ value: id, label: name }))}
          nothing={found.data ? 'Nobody of that name' : undefined}
          onType={setSearch}
          onPick={({ value, label: name }) => onPick({ id: value, name })}
          inputProps={ids}
        />
      )}
    </Field>
  );
}

/** What was handed over within a day. */
function Lately({ section }: { section: HandOverSectionInfo }) {
  const { base } = usePlace();
  const done = useHandOvers(base, section.steward);
  if (!done.data || done.data.length === 0) return null;
  return (
    <section aria-label="Handed over within a day" className="grid gap-2">
      <h3 className="text-base">Handed over within a day</h3>
      <ul className="rounded-stone border border-line bg-paper">
        {done.data.map((each) => (
          <Done key={each.id} section={section} done={each} />
        ))}
      </ul>
    </section>
  );
}

function Done({ section, done }: { section: HandOverSectionInfo; done: HandOverInfo }) {
  const { base, seenBy } = usePlace();
  const undo = useStewardAct(base, (ask, id: number) =>
    ask('POST /hand-over/:steward/:done/undo', { params: { steward: section.steward, done: id } }),
  );
  const left = done.undone?.left ?? [];
  return (
    <li className="flex flex-wrap items-start gap-3 border-b border-line px-3 py-2 last:border-0">
      <span className="min-w-0 grow basis-60">
        {sentence(section, done)} from {done.from} to {done.to}
        <span className="block text-sm text-soft">
          {minuteText(done.at)}
          {done.undone && `; ${counted(done.undone.back, 'record')} taken back`}
          {left.length > 0 && `, ${left.length.toLocaleString()} left: ${leftWords(left)}`}
        </span>
        {undo.isError && <Notice kind="fault">{problemText(undo.error)}</Notice>}
      </span>
      {done.until !== null && (
        <Button small disabled={undo.isPending || seenBy} onClick={() => undo.mutate(done.id)}>
          <Undo2 size={15} aria-hidden /> Take back
        </Button>
      )}
    </li>
  );
}

function leftWords(left: { why: string }[]): string {
  const changed = left.filter(({ why }) => why === 'changed since').length;
  const lost = left.length - changed;
  return listed([
    ...(changed > 0 ? [`${changed.toLocaleString()} changed since`] : []),
    ...(lost > 0 ? [`${lost.toLocaleString()} no longer yours to give`] : []),
  ]);
}
