import type { PortalDefinition } from '../../core/definition/definition';
import { Link } from 'react-router';
import { useBench } from '../../web/builder/bench/bench-context';
import { Field } from '../../web/ui/Field';
import { Select } from '../../web/ui/Select';
import type { EditProps } from '../edit';
import type { FormSection } from './spec';

export const word = 'Form';
export const says = 'to fill in and send, in steps: a record is made of it';
export const called = ({ form }: FormSection, { forms = [] }: PortalDefinition) =>
  forms.find(({ id }) => id === form)?.title ?? word;
export const ofTable = false;
export const things = ({ forms = [] }: PortalDefinition) => forms.map(({ id, title }) => ({ id, label: title }));
export const empty = (_table: null, _visible: string[], thing: string): Omit<FormSection, 'id'> => ({
  kind: 'form',
  form: thing,
});

/** Which form it is; what it asks is arranged among the forms. */
export default function FormEdit({ page, section, onChange }: EditProps<'form'>) {
  const { draft, to } = useBench();
  const { forms = [] } = draft;
  return (
    <div className="flex flex-wrap items-end gap-3">
      <Field label="Form">
        {(ids) => (
          <Select
            className="max-w-80"
            {...ids}
            value={section.form}
            onPick={(picked) =>
              void onChange(`Choose the form on ${page.title}`, (next) => {
                next.form = picked;
              })
            }
          >
            {!forms.some(({ id }) => id === section.form) && <option value={section.form}>a form that is gone</option>}
            {forms.map(({ id, title }) => (
              <option key={id} value={id}>
                {title}
              </option>
            ))}
          </Select>
        )}
      </Field>
      <Link to={to('pages', '!forms', { rule: section.form })} className="min-h-6">
        Arrange it
      </Link>
    </div>
  );
}
