import { useSearchParams } from 'react-router';
import { Download, Printer } from 'lucide-react';
import type { DataClass, PortalDefinition } from '../../../core/definition/definition';
import { useWho, whoFile, type Reach, type WhoEffect, type WhoQuestion } from '../../client/access';
import { problemText } from '../../client/http';
import { Button, buttonLook } from '../../ui/Button';
import { Notice, Skeleton } from '../../ui/Notice';
import { Stones } from '../../ui/Stones';
import { useBench } from '../bench/bench-context';
import { ClassMap } from './ClassMap';
import { ColumnChoice } from './ColumnChoice';
import { DataTable } from '../../ui/DataTable';
import { useNames, type Names } from '../bench/names';

/** Everyone who can reach a column or a data class, or all that one person can reach; to read, to print, and as CSV. */
export function WhoSeesWhat() {
  const { slug, state, person } = useBench();
  const names = useNames();
  const [params, setParams] = useSearchParams();
  const [table, column, ofClass, one] = ['table', 'column', 'class', 'person'].map(
    (name) => params.get(name) ?? '',
  ) as [string, string, string, string];
  const question: WhoQuestion | null =
    one && person
      ? { person: String(person.id) }
      : ofClass
        ? { class: ofClass as DataClass }
        : table && column
          ? { table, column }
          : null;
  const who = useWho(slug, question, state.revision);
  const ask = (next: Record<string, string>) => setParams(new URLSearchParams(next), { replace: true });
  return (
    <>
      <div className="flex flex-wrap items-center gap-2 print:hidden">
        <ColumnChoice chosen={{ table, column, class: ofClass }} onChoose={(next) => ask({ ...next })} />
        <span className="text-soft">or</span>
        <Button small aria-pressed={one !== ''} disabled={!person} onClick={() => ask({ person: 'in-seen-by' })}>
          {person ? `all that ${person.name} reaches` : 'all that the person in Seen by reaches'}
        </Button>
        {question && (
          <span className="ml-auto flex gap-2">
            <a className={buttonLook('plain', true)} href={whoFile(slug, question)} download>
              <Download size={15} aria-hidden /> CSV
            </a>
            <Button small onClick={() => window.print()}>
              <Printer size={15} aria-hidden /> Print
            </Button>
          </span>
        )}
      </div>
      {!question && <ClassMap onAsk={(of) => ask({ class: of })} />}
      {who.isError && <Notice kind="fault">{problemText(who.error)}</Notice>}
      {question && who.isPending && <Skeleton />}
      {question && who.data?.asked?.length === 0 && (
        <Notice kind="say">No column has this class. Classes are given under Data.</Notice>
      )}
      {question && who.data?.reached && (
        <ReachTable
          caption={`All that ${who.data.name} reaches`}
          heads={['Table', 'Column', 'in which rows']}
          rows={who.data.reached.map(({ table: of, column: each, reach, rows }) => ({
            key: `${of}.${each}`,
            cells: [names.table(of), names.column(of, each), rows],
            reach,
          }))}
          names={names}
        />
      )}
      {question &&
        who.data?.found?.map((each) => (
          <section key={`${each.table}.${each.column}`} className="grid gap-2">
            <h2 className="text-base">
              {names.table(each.table)}: {names.column(each.table, each.column)}
            </h2>
            <Effects effects={each.effects} />
            {each.roles.length === 0 && <p className="text-soft">No role reaches it.</p>}
            {each.roles.length > 0 && (
              <ReachTable
                caption={`Roles that reach ${names.table(each.table)}: ${names.column(each.table, each.column)}`}
                heads={['Role']}
                rows={each.roles.map((of) => ({ key: of.role, cells: [names.role(of.role)], reach: of.reach }))}
                names={names}
              />
            )}
            {each.people.map((group, i) => (
              <details key={i} className="rounded-stone border border-line px-3 py-1.5">
                <summary className="cursor-pointer">
                  {group.people.length.toLocaleString()} {group.people.length === 1 ? 'person' : 'people'}:{' '}
                  {reachSentence(group.reach)}{' '}
                  <span className="text-soft">through {throughWords(group.reach, names)}</span>
                </summary>
                <p className="mt-1 max-h-40 overflow-y-auto text-sm">
                  {group.people.map((one) => one.name).join(', ')}
                </p>
              </details>
            ))}
          </section>
        ))}
    </>
  );
}

/** Where a column goes beside whoever is shown it, and what writes it without a press. */
function Effects({ effects }: { effects: WhoEffect[] }) {
  const { draft } = useBench();
  const names = useNames();
  if (effects.length === 0) return null;
  const to = (of: NonNullable<WhoEffect['to']>): string => {
    if ('address' in of)
      return `told to ${draft.addresses?.find(({ id }) => id === of.address)?.name ?? 'an address that is gone'}`;
    if (of.mail.to === 'role') return `mailed to everybody who is ${names.role(of.mail.role)}`;
    return of.mail.to === 'presser'
      ? 'mailed to whoever presses'
      : `mailed to the address in ${of.mail.path.join(' · ')}`;
  };
  return (
    <ul aria-label="Beside what people see" className="grid gap-0.5 text-sm">
      {effects.map((effect, i) => (
        <li key={i}>
          {effect.to ? `It is ${to(effect.to)}` : 'It is written'} by “{names.action(effect.action)}”
          <span className="text-soft">, {setOffWords(effect, draft, names)}</span>
        </li>
      ))}
    </ul>
  );
}

function setOffWords({ action, by: { roles, clock } }: WhoEffect, draft: PortalDefinition, names: Names): string {
  const known = draft.actions?.find(({ id }) => id === action);
  if (clock && roles.length === 0) return 'each day by itself';
  const who = roles.length > 0 ? roles.map(names.role).join(', ') : 'nobody at the moment';
  return known?.on ? `set off by ${who}` : `pressed by ${who}`;
}

function reachSentence({ level, mask, edit, create, export: taken }: Reach): string {
  const sees = level === 'shown' ? 'see it whole' : level === 'masked' ? `see it masked (${mask})` : "don't see it";
  const does = [edit && 'edit it', create && 'fill it in new records', taken && 'export it'].filter(Boolean);
  return [sees, ...does].join(', ');
}

/** Roles, and what is done as a steward. */
const throughWords = ({ through, stewards, actions }: Reach, { role, steward, action }: Names): string =>
  [...through.map(role), ...stewards.map(steward), ...actions.map((id) => `by “${action(id)}”`)].join('; ');

function ReachTable({
  caption,
  heads,
  rows,
  names,
}: {
  caption: string;
  heads: string[];
  rows: { key: string; cells: string[]; reach: Reach }[];
  names: Names;
}) {
  const yes = (is: boolean) => (is ? 'yes' : <span className="text-soft">no</span>);
  return (
    <DataTable label={caption} head={[...heads, 'sees', 'edits', 'fills', 'exports', 'through']} small>
      {rows.map(({ key, cells, reach }) => (
        <tr key={key}>
          {cells.map((cell, i) => (
            <td key={i} className={`py-1 pr-4 ${i < 2 ? 'font-semibold' : 'max-w-64 text-soft'}`}>
              {cell}
            </td>
          ))}
          <td>
            <span className="inline-flex items-center gap-2">
              <Stones level={reach.level} />
              {reach.level}
              {reach.mask && `: ${reach.mask}`}
            </span>
          </td>
          <td>{yes(reach.edit)}</td>
          <td>{yes(reach.create)}</td>
          <td>{yes(reach.export)}</td>
          <td>{throughWords(reach, names)}</td>
        </tr>
      ))}
    </DataTable>
  );
}
