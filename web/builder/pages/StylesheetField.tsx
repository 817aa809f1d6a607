import { useState } from 'react';
import { Field } from '../../ui/Field';

/** What of a portal a stylesheet can go by, beside the tags: names that stay. */
const parts = [
  ['.part-top', 'the top'],
  ['.part-pages', 'the way to the pages'],
  ['.part-page', 'a page'],
  ['.part-section', 'a section; also .part-list, .part-cards, .part-figure and so on'],
  ['.part-record', 'a record that is open'],
  ['.part-foot', 'the foot'],
  ['.part-door', 'the sign-in'],
];

/** A stylesheet of the portal's own, kept as soon as the field is left and it can be taken. */
export function StylesheetField({
  text,
  onChange,
}: {
  text: string;
  onChange: (text: string) => Promise<string | null>;
}) {
  // What can't be taken stays to be mended.
  const [typed, setTyped] = useState<string | null>(null);
  const [fault, setFault] = useState<string | null>(null);
  const keep = () => {
    const next = (typed ?? text).trim();
    const kept = next === text ? Promise.resolve(null) : onChange(next);
    void kept.then((problem) => {
      // The field says by itself where it is.
      setFault(problem && problem.replace(/^[^:]*: /, ''));
      if (problem === null) setTyped((now) => (now === typed ? null : now));
    });
  };
  return (
    <div className="grid gap-2">
      <Field
        label="A stylesheet of its own"
        hint="Plain CSS, held within the portal; nothing is fetched from elsewhere"
        fault={fault}
      >
        {(ids) => (
          <textarea
            className="field font-code text-sm"
            rows={8}
            spellCheck={false}
            {...ids}
            value={typed ?? text}
            onChange={(event) => setTyped(event.target.value)}
            onBlur={keep}
          />
        )}
      </Field>
      <dl className="grid grid-cols-[auto_1fr] gap-x-4 text-sm">
        {parts.map(([name, says]) => (
          <div key={name} className="contents">
            <dt className="font-code">{name}</dt>
            <dd className="text-soft">{says}</dd>
          </div>
        ))}
      </dl>
    </div>
  );
}
