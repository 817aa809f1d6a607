import { besideSheet, type BesideSheet } from '../../../core/definition/hung';
import { useNavigate } from 'react-router';
import { findTable, isClosed } from '../../../core/table/catalogue';
import { Button } from '../../ui/Button';
import { Notice } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { StageHead } from '../bench/StageFrame';
import { LinkedChoice } from './LinkedChoice';
import { SheetColumns } from './SheetColumns';

const besideWords: Record<BesideSheet, string> = {
  comments: 'Comments, for those whose access lets them read some',
  files: 'Files, for those whose access lets them open some',
  history: 'What changed in it, for those whose access lets them read it',
};

/** How a record of a table looks wherever one is opened. */
export function SheetEditor({ table: name }: { table: string }) {
  const { draft, edit, to, catalogue } = useBench();
  const navigate = useNavigate();
  const sheet = draft.sheets[name]!;
  const table = findTable(catalogue, name);
  const of = draft.roles.filter((role) => draft.access[name]?.[role.id]?.see).map(({ id }) => id);
  const forget = () =>
    void edit(`Forget how ${name} records look`, (next) => {
      delete next.sheets[name];
    }).then(() => navigate(to('pages')));
  return (
    <>
      <StageHead title={`A record of ${name}`}>
        <Button small weight="danger" onClick={forget}>
          Forget
        </Button>
      </StageHead>
      <div className="grid gap-4 p-4">
        <p className="text-soft">
          Whoever opens a record of {name} gets it so, with what of this they see; a list can have its own way.
        </p>
        {!table && <Notice kind="fault">The database has no table {name} any more.</Notice>}
        {table && (
          <SheetColumns
            title="On the record page"
            table={table}
            visible={table.columns.map((column) => column.name).filter((column) => !isClosed(table, column))}
            of={of}
            sheet={sheet}
            onChange={(arranged) =>
              edit(`Choose what a record of ${name} shows`, (next) => {
                if (Object.hasOwn(next.sheets, name)) next.sheets[name] = arranged;
              })
            }
          />
        )}
        {table && (
          <div className="grid gap-1">
            {besideSheet.map((what) => (
              <label key={what} className="inline-flex min-h-6 items-center gap-2">
                <input
                  type="checkbox"
                  checked={sheet[what] !== false}
                  onChange={(event) => {
                    const shown = event.target.checked;
                    void edit(`${shown ? 'Show' : 'Leave out'} ${what} on ${name} records`, (next) => {
                      const known = Object.hasOwn(next.sheets, name) ? next.sheets[name]! : null;
                      if (known && shown) delete known[what];
                      else if (known) known[what] = false;
                    });
                  }}
                />{' '}
                {besideWords[what]}
              </label>
            ))}
          </div>
        )}
        {table && sheet.comments !== false && (
          <label className="inline-flex min-h-6 items-center gap-2">
            <input
              type="checkbox"
              checked={sheet.doubts === true}
              onChange={(event) => {
                const offered = event.target.checked;
                void edit(`${offered ? 'Let' : 'Stop letting'} facts of ${name} be said to be wrong`, (next) => {
                  const known = Object.hasOwn(next.sheets, name) ? next.sheets[name]! : null;
                  if (known && offered) known.doubts = true;
                  else if (known) delete known.doubts;
                });
              }}
            />{' '}
            “wrong?” beside what can’t be changed, for those who may write comments
          </label>
        )}
        {table && (
          <LinkedChoice
            table={table}
            of={of}
            linked={sheet.linked ?? []}
            onChange={(linked) =>
              edit(`Choose what belongs to a record of ${name}`, (next) => {
                const known = Object.hasOwn(next.sheets, name) ? next.sheets[name]! : null;
                if (known && linked.length > 0) known.linked = linked;
                else if (known) delete known.linked;
              })
            }
          />
        )}
      </div>
    </>
  );
}
