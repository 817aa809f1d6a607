import { useSearchParams } from 'react-router';
import { Download, Printer } from 'lucide-react';
import { dataClasses, type DataClass } from '../../../core/definition/definition';
import { findTable } from '../../../core/table/catalogue';
import { useWho, whoFile, type Reach, type WhoQuestion } from '../../client/access';
import { problemText } from '../../client/http';
import { Button, buttonLook } from '../../ui/Button';
import { Notice, Skeleton } from '../../ui/Notice';
import { Stones } from '../../ui/Stones';
import { useBench } from '../bench/bench-context';

/** Everyone who can reach a column or a data class, or all that one person can reach; to read, to print, and as CSV. */
export function WhoSeesWhat() {
  const { slug, state, catalogue, person, draft } = useBench();
  const [params, setParams] = useSearchParams();
  const [table, column, ofClass, one] = ['table', 'column', 'class', 'person'].map((name) => params.get(name) ?? '');
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
  const role = (id: string) => draft.roles.find((each) => each.id === id)?.name ?? id;
  const columns = table ? (findTable(catalogue, table)?.columns ?? []) : [];
  return (
    <>
      <div className="flex flex-wrap items-center gap-2 print:hidden">
        <select
          aria-label="Data class"
          className="field w-auto"
          value={ofClass}
          onChange={(event) => ask(event.target.value ? { class: event.target.value } : {})}
        >
          <option value="">a data class …</option>
          {dataClasses.map((each) => (
            <option key={each}>{each}</option>
          ))}
        </select>
        <span className="text-soft">or</span>
        <select
          aria-label="Table"
          className="field w-auto"
          value={table}
          onChange={(event) =>
            ask(
              event.target.value
                ? {
                    table: event.target.value,
                    column: findTable(catalogue, event.target.value)?.columns[0]?.name ?? '',
                  }
                : {},
            )
          }
        >
          <option value="">a column of …</option>
          {catalogue.tables.map((each) => (
            <option key={each.name}>{each.name}</option>
          ))}
        </select>
        {table && (
          <select
            aria-label="Column"
            className="field w-auto"
            value={column}
            onChange={(event) => ask({ table, column: event.target.value })}
          >
            {columns.map((each) => (
              <option key={each.name}>{each.name}</option>
            ))}
          </select>
        )}
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
      {!question && <p className="text-soft">Choose what to look up.</p>}
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
            cells: [of, each, rows],
            reach,
          }))}
          role={role}
        />
      )}
      {question &&
        who.data?.found?.map((each) => (
          <section key={`${each.table}.${each.column}`} className="grid gap-2">
            <h2 className="text-base">
              {each.table}.{each.column}
            </h2>
            {each.roles.length === 0 && <p className="text-soft">No role reaches it.</p>}
            {each.roles.length > 0 && (
              <ReachTable
                caption={`Roles that reach ${each.table}.${each.column}`}
                heads={['Role']}
                rows={each.roles.map((of) => ({ key: of.role, cells: [role(of.role)], reach: of.reach }))}
                role={role}
              />
            )}
            {each.people.map((group, i) => (
              <details key={i} className="rounded-stone border border-line px-3 py-1.5">
                <summary className="cursor-pointer">
                  {group.people.length.toLocaleString()} {group.people.length === 1 ? 'person' : 'people'}:{' '}
                  {reachSentence(group.reach)}{' '}
                  <span className="text-soft">through {group.reach.through.map(role).join(', ')}</span>
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

function reachSentence({ level, mask, edit, create, export: taken }: Reach): string {
  const sees = level === 'shown' ? 'see it whole' : level === 'masked' ? `see it masked (${mask})` : "don't see it";
  const does = [edit && 'edit it', create && 'fill it in new records', taken && 'export it'].filter(Boolean);
  return [sees, ...does].join(', ');
}

function ReachTable({
  caption,
  heads,
  rows,
  role,
}: {
  caption: string;
  heads: string[];
  rows: { key: string; cells: string[]; reach: Reach }[];
  role: (id: string) => string;
}) {
  const yes = (is: boolean) => (is ? 'yes' : <span className="text-soft">no</span>);
  return (
    <div className="overflow-x-auto" tabIndex={0} role="region" aria-label={caption}>
      <table className="w-full text-left text-sm">
        <thead>
          <tr className="border-b border-line text-soft">
            {[...heads, 'sees', 'edits', 'fills', 'exports', 'through'].map((head) => (
              <th key={head} scope="col" className="py-1 pr-4 font-semibold">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map(({ key, cells, reach }) => (
            <tr key={key} className="border-b border-line">
              {cells.map((cell, i) => (
                <td key={i} className={`py-1 pr-4 ${i < 2 ? 'font-semibold' : 'max-w-64 text-soft'}`}>
                  {cell}
                </td>
              ))}
              <td className="py-1 pr-4">
                <span className="inline-flex items-center gap-2">
                  <Stones level={reach.level} />
                  {reach.level}
                  {reach.mask && `: ${reach.mask}`}
                </span>
              </td>
              <td className="py-1 pr-4">{yes(reach.edit)}</td>
              <td className="py-1 pr-4">{yes(reach.create)}</td>
              <td className="py-1 pr-4">{yes(reach.export)}</td>
              <td className="py-1 pr-4">{reach.through.map(role).join(', ')}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
