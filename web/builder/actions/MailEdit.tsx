import { mailFacts, type MailStep, type MailTo } from '../../../core/definition/action';
import { printPath } from '../../../core/definition/path';
import { isClosed, type Table } from '../../../core/table/catalogue';
import { Field } from '../../ui/Field';
import { Select } from '../../ui/Select';
import { addressChoices, columnChoices } from '../access/choices';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';

const keyOf = (mail: MailTo): string =>
  mail.to === 'presser' ? 'presser' : mail.to === 'role' ? `role ${mail.role}` : `column ${printPath(mail.path)}`;

/** To whom a mail goes, and what it says. */
export function MailEdit({
  step,
  table,
  byItself,
  onChange,
}: {
  step: MailStep;
  /** Nobody presses. */
  byItself: boolean;
  table: Table;
  onChange: (label: string, recipe: (step: MailStep) => void) => void;
}) {
  const { draft, catalogue } = useBench();
  const names = useNames();
  const addresses = addressChoices(columnChoices(catalogue, table));
  const picked = keyOf(step.mail);
  const offered: { key: string; called: string; mail: MailTo }[] = [
    ...(byItself ? [] : [{ key: 'presser', called: 'whoever presses', mail: { to: 'presser' as const } }]),
    ...addresses.map(({ path }) => ({
      key: `column ${printPath(path)}`,
      called: names.path(table.name, printPath(path)),
      mail: { to: 'column' as const, path },
    })),
    ...draft.roles
      .filter((role) => (role.for ?? 'members') === 'members')
      .map(({ id, name }) => ({
        key: `role ${id}`,
        called: `everybody who is ${name}`,
        mail: { to: 'role' as const, role: id },
      })),
  ];
  const values = [
    ...mailFacts,
    ...table.columns.filter(({ name }) => !isClosed(table, name)).map(({ name }) => printPath([name])),
  ];
  return (
    <div className="grid gap-2">
      <Field label="To">
        {(ids) => (
          <Select
            className="max-w-96"
            {...ids}
            value={picked}
            onPick={(key) => {
              const found = offered.find((each) => each.key === key);
              if (found)
                onChange('Choose to whom a mail goes', (next) => {
                  next.mail = found.mail;
                });
            }}
          >
            {!offered.some(({ key }) => key === picked) && <option value={picked}>an address that is gone</option>}
            {offered.map(({ key, called }) => (
              <option key={key} value={key}>
                {called}
              </option>
            ))}
          </Select>
        )}
      </Field>
      <Field label="Subject">
        {(ids) => (
          <input
            className="field max-w-160"
            {...ids}
            key={step.subject}
            defaultValue={step.subject}
            maxLength={200}
            onBlur={(event) => {
              const typed = event.target.value.trim();
              if (typed && typed !== step.subject)
                onChange('Word the subject of a mail', (next) => {
                  next.subject = typed;
                });
            }}
          />
        )}
      </Field>
      <Field
        label="What it says"
        hint={
          <>
            Markdown. Values stand as{' '}
            {values.slice(0, 8).map((value, i) => (
              <span key={value}>
                {i > 0 && ', '}
                <code>{`{{${value}}}`}</code>
              </span>
            ))}
            {values.length > 8 && ', and so on'}; through relations as <code>{'{{well.code}}'}</code>.
          </>
        }
      >
        {(ids) => (
          <textarea
            className="field max-w-160"
            rows={5}
            {...ids}
            key={step.text}
            defaultValue={step.text}
            maxLength={10_000}
            onBlur={(event) => {
              const typed = event.target.value;
              if (typed.trim() && typed !== step.text)
                onChange('Word a mail', (next) => {
                  next.text = typed;
                });
            }}
          />
        )}
      </Field>
    </div>
  );
}
