import { useState } from 'react';
import { isOutside } from '../../../core/text/outside-address';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';

interface FooterLink {
  label: string;
  address: string;
}

const mostLinks = 8;

/** The ways out at the foot of every page. */
export function FooterLinks({
  links,
  onChange,
}: {
  links: FooterLink[];
  onChange: (label: string, links: FooterLink[]) => Promise<string | null>;
}) {
  const [adding, setAdding] = useState({ label: '', address: '' });
  const [fault, setFault] = useState<string | null>(null);
  const add = () => {
    const link = { label: adding.label.trim(), address: adding.address.trim() };
    if (link.label === '') setFault('Say what the link is called.');
    else if (!isOutside(link.address))
      setFault('Write a whole address, like https://www.example.org/ or mailto:desk@example.org.');
    else {
      setFault(null);
      void onChange(`Add ${link.label} to the foot`, [...links, link]).then((problem) => {
        setFault(problem);
        if (problem === null) setAdding({ label: '', address: '' });
      });
    }
  };
  return (
    <fieldset className="grid gap-2">
      <legend className="text-sm font-semibold">Links at the foot of every page</legend>
      {links.map(({ label, address }, at) => (
        <p key={at} className="flex flex-wrap items-center gap-3">
          <span className="font-semibold">{label}</span>
          <span className="min-w-0 flex-1 truncate text-soft">{address}</span>
          <Button
            small
            aria-label={`Take out ${label}`}
            onClick={() =>
              void onChange(
                `Take ${label} from the foot`,
                links.filter((_, i) => i !== at),
              )
            }
          >
            Take out
          </Button>
        </p>
      ))}
      {links.length < mostLinks && (
        <div className="flex flex-wrap items-start gap-2">
          <Field label="Called">
            {(ids) => (
              <input
                className="field w-48"
                maxLength={60}
                {...ids}
                value={adding.label}
                onChange={(event) => setAdding({ ...adding, label: event.target.value })}
              />
            )}
          </Field>
          <Field label="Leads to" fault={fault}>
            {(ids) => (
              <input
                className="field w-80 max-w-full"
                maxLength={2000}
                {...ids}
                value={adding.address}
                onChange={(event) => setAdding({ ...adding, address: event.target.value })}
              />
            )}
          </Field>
          <Button className="mt-6" onClick={add}>
            Add the link
          </Button>
        </div>
      )}
    </fieldset>
  );
}
