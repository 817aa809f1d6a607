import { Field } from '../../web/ui/Field';
import type { EditProps } from '../edit';
import type { TextSection } from './spec';

export const word = 'Words';
export const says = 'text in Markdown, with the reader’s own values';
export const called = () => 'Words';
export const ofTable = false;
export const empty = (): Omit<TextSection, 'id'> => ({ kind: 'text', text: '' });

/** Markdown, written and kept on leaving the field. */
export default function TextEdit({ page, section, onChange }: EditProps<'text'>) {
  return (
    <Field
      label="Words, in Markdown"
      hint="{:member.email} stands for the reader's own, and {:member.owners.name} for a column of their roster row."
    >
      {(ids) => (
        <textarea
          className="field font-code"
          rows={6}
          {...ids}
          key={section.text}
          defaultValue={section.text}
          maxLength={20_000}
          onBlur={(event) => {
            const text = event.target.value;
            if (text !== section.text)
              void onChange(`Word ${page.title}`, (next) => {
                next.text = text;
              });
          }}
        />
      )}
    </Field>
  );
}
