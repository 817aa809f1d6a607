import { ArrowDown, ArrowUp } from 'lucide-react';
import { useState } from 'react';
import { useBench } from '../../web/builder/bench/bench-context';
import { Button } from '../../web/ui/Button';
import { Field } from '../../web/ui/Field';
import { Select } from '../../web/ui/Select';
import type { EditProps } from '../edit';
import { isOutside } from '../../core/text/outside-address';
import type { ButtonsSection, LinkButton } from './spec';

export const word = 'Buttons';
export const says = 'ways on, to pages of the portal or elsewhere, and what can be done by oneself';
export const called = ({ title }: ButtonsSection) => title ?? 'Buttons';
export const ofTable = false;
export const empty = (): Omit<ButtonsSection, 'id'> => ({ kind: 'buttons', buttons: [] });

const mostButtons = 12;

/** The buttons in their order, each with where it leads. */
export default function ButtonsEdit({ page, section, onChange }: EditProps<'buttons'>) {
  const { draft } = useBench();
  const change = (label: string, recipe: (buttons: LinkButton[]) => void) =>
    onChange(`${label} on ${page.title}`, (next) => recipe(next.buttons));
  const others = draft.pages.filter(({ id }) => id !== page.id);
  return (
    <fieldset className="grid gap-3">
      <legend className="text-sm font-semibold">Buttons</legend>
      {section.buttons.map((button, at) => (
        <ButtonEdit
          key={at}
          button={button}
          isFirst={at === 0}
          isLast={at === section.buttons.length - 1}
          onMove={(by) =>
            void change(`Move ${button.label}`, (next) => {
              const [moved] = next.splice(at, 1);
              next.splice(at + by, 0, moved!);
            })
          }
          onRemove={() => void change(`Take out ${button.label}`, (next) => void next.splice(at, 1))}
          onChange={(label, recipe) => change(label, (next) => recipe(next[at]!))}
        />
      ))}
      {section.buttons.length < mostButtons && (
        <Button
          small
          className="justify-self-start"
          onClick={() =>
            void change('Add a button', (next) => {
              const to = others[0] ?? page;
              next.push({ label: to.title, to: { page: to.id } });
            })
          }
        >
          + button
        </Button>
      )}
    </fieldset>
  );
}

function ButtonEdit({
  button,
  isFirst,
  isLast,
  onMove,
  onRemove,
  onChange,
}: {
  button: LinkButton;
  isFirst: boolean;
  isLast: boolean;
  onMove: (by: 1 | -1) => void;
  onRemove: () => void;
  onChange: (label: string, recipe: (button: LinkButton) => void) => Promise<string | null>;
}) {
  const { label, words = '', to } = button;
  return (
    <section aria-label={`Button ${label}`} className="grid gap-2 rounded-stone border border-line p-3">
      <div className="flex flex-wrap items-start gap-3">
        <Field label="It says">
          {(ids) => (
            <input
              className="field w-56"
              maxLength={60}
              {...ids}
              key={label}
              defaultValue={label}
              onBlur={(event) => {
                const typed = event.target.value.trim();
                if (typed && typed !== label)
                  void onChange(`Call a button ${typed}`, (next) => {
                    next.label = typed;
                  });
                else event.target.value = label;
              }}
            />
          )}
        </Field>
        <Field label="What it is for" hint="Empty says nothing">
          {(ids) => (
            <input
              className="field w-72"
              maxLength={200}
              {...ids}
              key={words}
              defaultValue={words}
              onBlur={(event) => {
                const typed = event.target.value.trim();
                if (typed !== words)
                  void onChange(`Word ${label}`, (next) => {
                    if (typed) next.words = typed;
                    else delete next.words;
                  });
              }}
            />
          )}
        </Field>
        <TargetField
          to={to}
          onPick={(picked) =>
            onChange(`Choose what ${label} is for`, (next) => {
              next.to = picked;
            })
          }
        />
        {'address' in to && (
          <AddressField
            address={to.address}
            onChange={(address) =>
              onChange(`Choose where ${label} leads`, (next) => {
                next.to = { address };
              })
            }
          />
        )}
      </div>
      <div className="flex gap-1">
        <Button small weight="quiet" aria-label={`Move ${label} earlier`} disabled={isFirst} onClick={() => onMove(-1)}>
          <ArrowUp size={15} aria-hidden />
        </Button>
        <Button small weight="quiet" aria-label={`Move ${label} later`} disabled={isLast} onClick={() => onMove(1)}>
          <ArrowDown size={15} aria-hidden />
        </Button>
        <Button small aria-label={`Take out ${label}`} onClick={onRemove}>
          Take out
        </Button>
      </div>
    </section>
  );
}

const elsewhere = 'address';

/** A page, an action with the row of whoever presses, or an address elsewhere. */
function TargetField({ to, onPick }: { to: LinkButton['to']; onPick: (to: LinkButton['to']) => unknown }) {
  const { draft } = useBench();
  const pages = draft.pages.map(({ id, title }) => ({ value: `page/${id}`, says: title }));
  const actions = (draft.actions ?? [])
    .filter(({ on, table }) => !on && draft.rosters.some((roster) => roster.table === table))
    .map(({ id, name }) => ({ value: `action/${id}`, says: name }));
  const now = 'page' in to ? `page/${to.page}` : 'action' in to ? `action/${to.action}` : elsewhere;
  const isGone = now !== elsewhere && ![...pages, ...actions].some(({ value }) => value === now);
  const options = (list: typeof pages) =>
    list.map(({ value, says }) => (
      <option key={value} value={value}>
        {says}
      </option>
    ));
  return (
    <Field label="A press" {...('action' in to ? { hint: 'It is done with the row of whoever presses' } : {})}>
      {(ids) => (
        <Select
          className="max-w-60"
          {...ids}
          value={now}
          onPick={(picked) => {
            const id = picked.slice(picked.indexOf('/') + 1);
            if (picked === elsewhere) onPick({ address: 'https://www.example.org/' });
            else onPick(picked.startsWith('page/') ? { page: id } : { action: id });
          }}
        >
          {isGone && (
            <option value={now}>{'page' in to ? 'a page that is gone' : 'an action that is not there'}</option>
          )}
          <optgroup label="leads to">
            {options(pages)}
            <option value={elsewhere}>an address elsewhere</option>
          </optgroup>
          {actions.length > 0 && <optgroup label="does">{options(actions)}</optgroup>}
        </Select>
      )}
    </Field>
  );
}

function AddressField({
  address,
  onChange,
}: {
  address: string;
  onChange: (address: string) => Promise<string | null>;
}) {
  const [fault, setFault] = useState<string | null>(null);
  return (
    <Field label="Address" hint="https, mailto: or tel:" fault={fault}>
      {(ids) => (
        <input
          className="field w-80"
          maxLength={2000}
          {...ids}
          key={address}
          defaultValue={address}
          onBlur={(event) => {
            const typed = event.target.value.trim();
            if (!isOutside(typed)) {
              setFault('Write a whole address, like https://www.example.org/ or mailto:desk@example.org.');
              return;
            }
            setFault(null);
            if (typed !== address) void onChange(typed).then(setFault);
          }}
        />
      )}
    </Field>
  );
}
