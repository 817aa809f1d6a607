import { useState } from 'react';
import { isEmbedding } from '../../../core/face/embedding';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';

const most = 10;

/** Sites that may show the portal within their own pages. */
export function EmbeddedIn({
  origins,
  onChange,
}: {
  origins: string[];
  onChange: (label: string, origins: string[]) => Promise<string | null>;
}) {
  const [adding, setAdding] = useState('');
  const [fault, setFault] = useState<string | null>(null);
  const add = () => {
    const origin = adding.trim().toLowerCase().replace(/\/$/, '');
    if (!isEmbedding(origin)) return setFault('Write the beginning of its address, like https://www.example.org.');
    if (origins.includes(origin)) return setFault('It is among them already.');
    setFault(null);
    void onChange(`Let ${origin} show the portal`, [...origins, origin]).then((problem) => {
      setFault(problem);
      if (problem === null) setAdding('');
    });
  };
  return (
    <fieldset className="grid gap-2">
      <legend className="text-sm font-semibold">Sites that may show it within their pages</legend>
      <p className="text-sm text-soft">
        {origins.length === 0 ? 'None. ' : ''}
        What is public is read there; to sign in, people are led to the portal’s own window.
      </p>
      {origins.map((origin) => (
        <p key={origin} className="flex flex-wrap items-center gap-3">
          <span className="min-w-0 flex-1 truncate">{origin}</span>
          <Button
            small
            aria-label={`Take out ${origin}`}
            onClick={() =>
              void onChange(
                `No longer let ${origin} show the portal`,
                origins.filter((each) => each !== origin),
              )
            }
          >
            Take out
          </Button>
        </p>
      ))}
      {origins.length < most && (
        <div className="flex flex-wrap items-start gap-2">
          <Field label="Site" fault={fault}>
            {(ids) => (
              <input
                className="field w-80 max-w-full"
                maxLength={300}
                placeholder="https://www.example.org"
                {...ids}
                value={adding}
                onChange={(event) => setAdding(event.target.value)}
              />
            )}
          </Field>
          <Button className="mt-6" onClick={add}>
            Add the site
          </Button>
        </div>
      )}
    </fieldset>
  );
}
