import { Notice } from '../../ui/Notice';
import type { Form } from '../../../core/definition/form';
import { findTable, type Table } from '../../../core/table/catalogue';
import { Field } from '../../ui/Field';
import { Select } from '../../ui/Select';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';
import type { ChangeForm } from './form-edits';

/** Whether a form makes a record or changes one, and what it is opened with. */
export function OpenedWith({ form, table, onChange }: { form: Form; table: Table; onChange: ChangeForm }) {
  const { catalogue } = useBench();
  const names = useNames();
  // Those that it leads to come first: a form is mostly opened with one of them.
  const near = new Set(table.relations.map((relation) => relation.table));
  const others = catalogue.tables.filter(({ key }) => key.length > 0);
  const offered = [...others.filter(({ name }) => near.has(name)), ...others.filter(({ name }) => !near.has(name))];
  const picked = form.changes ? 'changes' : form.from === undefined ? '' : `from ${form.from}`;
  const isGone = form.from !== undefined && !findTable(catalogue, form.from);
  return (
    <>
      <Field label="What it does">
        {(ids) => (
          <Select
            className="max-w-120"
            {...ids}
            value={picked}
            onPick={(value) =>
              void onChange(`Set what ${form.title} is opened with`, (next) => {
                delete next.changes;
                delete next.from;
                if (value === 'changes') next.changes = true;
                else if (value !== '') next.from = value.slice('from '.length);
              })
            }
          >
            <option value="">makes a record of {names.tableInText(table.name)}</option>
            {table.key.length > 0 && <option value="changes">changes the record that it is opened with</option>}
            {isGone && <option value={picked}>makes one, opened with a record of a table that is gone</option>}
            {offered.map(({ name }) => (
              <option key={name} value={`from ${name}`}>
                makes one, opened with a record of {names.tableInText(name)}
              </option>
            ))}
          </Select>
        )}
      </Field>
      {picked !== '' && (
        <Notice kind="say">
          It is opened by an action with a step that goes to its page, with the record: a button in lists and records.
        </Notice>
      )}
    </>
  );
}
