import { Link } from 'react-router';
import type { Brought } from '../../../core/definition/brought';
import type { PortalDefinition } from '../../../core/definition/definition';
import { findTable } from '../../../core/table/catalogue';
import { Field } from '../../ui/Field';
import { Select } from '../../ui/Select';
import { AddOn } from '../access/AddOn';
import { Rule, RuleList, useOpenRule } from '../access/RuleList';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';
import { TimedRuns } from '../timed/TimedRuns';
import { TimeField } from '../timed/TimeField';
import { addBrought, bringingRole } from './brought-edits';

/** What is fetched from addresses into tables each day. */
export function BroughtList() {
  const { draft, catalogue, edit } = useBench();
  const names = useNames();
  const { setOpen } = useOpenRule();
  const all = draft.brought ?? [];
  const add = (table: string) => {
    let made = '';
    void edit(`Bring ${names.tableInText(table)} from an address`, (next) => {
      made = addBrought(next, findTable(catalogue, table)!, names.table(table));
    }).then((problem) => problem === null && setOpen(made));
  };
  if (!draft.addresses?.length) return null;
  return (
    <section aria-label="Brought each day" className="grid gap-2">
      <h2 className="text-base font-semibold">Brought each day</h2>
      {all.length > 0 && (
        <RuleList>
          {all.map((brought) => (
            <BroughtRule key={brought.id} brought={brought} />
          ))}
        </RuleList>
      )}
      <AddOn words="what is brought into" onAdd={add} />
    </section>
  );
}

function BroughtRule({ brought }: { brought: Brought }) {
  const { draft, edit } = useBench();
  const names = useNames();
  const from = draft.addresses?.find(({ id }) => id === brought.address)?.name ?? 'an address that is gone';
  return (
    <Rule
      id={brought.id}
      kind="Bringing"
      sentence={
        <>
          <strong>{brought.name}</strong>, from {from} into {names.tableInText(brought.table)} at {brought.at}
        </>
      }
      loses="It is fetched no more. What was brought stays."
      onRemove={() =>
        void edit(`Bring ${brought.name} no more`, (next) => {
          next.brought = next.brought!.filter(({ id }) => id !== brought.id);
          if (next.brought.length === 0) delete next.brought;
        })
      }
    >
      <BroughtEdit brought={brought} />
    </Rule>
  );
}

function BroughtEdit({ brought }: { brought: Brought }) {
  const { draft, catalogue, edit, to } = useBench();
  const table = findTable(catalogue, brought.table);
  const services = draft.roles.filter((role) => role.for === 'services');
  const change = (label: string, recipe: (next: Brought, whole: PortalDefinition) => void) =>
    void edit(label, (next) =>
      recipe(
        next.brought!.find(({ id }) => id === brought.id)!,
        next,
      ),
    );
  return (
    <div className="grid gap-4">
      <div className="grid gap-3 @min-[700px]:grid-cols-2">
        <Field label="What it is called">
          {(ids) => (
            <input
              className="field"
              {...ids}
              key={brought.name}
              defaultValue={brought.name}
              maxLength={60}
              onBlur={(event) => {
                const typed = event.target.value.trim();
                if (typed && typed !== brought.name)
                  change(`Call what is brought ${typed}`, (next) => {
                    next.name = typed;
                  });
              }}
            />
          )}
        </Field>
        <Field label="From">
          {(ids) => (
            <Select
              {...ids}
              value={brought.address}
              onPick={(picked) =>
                change(`Choose from where ${brought.name} is brought`, (next) => {
                  next.address = picked;
                })
              }
            >
              {!draft.addresses?.some(({ id }) => id === brought.address) && (
                <option value={brought.address}>an address that is gone</option>
              )}
              {(draft.addresses ?? []).map(({ id, name }) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </Select>
          )}
        </Field>
        <TimeField
          label="Each day at"
          value={brought.at}
          onChange={(at) =>
            change(`Bring ${brought.name} at ${at}`, (next) => {
              next.at = at;
            })
          }
        />
        <Field label="As the service" hint="It adds and changes what this service may.">
          {(ids) => (
            <Select
              {...ids}
              value={brought.role}
              onPick={(role) =>
                change(`Choose who brings ${brought.name}`, (next, whole) => {
                  next.role = role === '+' ? bringingRole(whole, table!, true) : role;
                })
              }
            >
              {!services.some(({ id }) => id === brought.role) && (
                <option value={brought.role}>a role that is none for services</option>
              )}
              {services.map(({ id, name }) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
              {table && <option value="+">a new one that adds to it and changes it</option>}
            </Select>
          )}
        </Field>
        <Field label="When some of it is refused">
          {(ids) => (
            <Select
              {...ids}
              value={brought.refused}
              onPick={(picked) =>
                change(`Set what is done with what is refused of ${brought.name}`, (next) => {
                  next.refused = picked as Brought['refused'];
                })
              }
            >
              <option value="hold">nothing is taken, and it is held for you</option>
              <option value="leave out">the others are taken</option>
            </Select>
          )}
        </Field>
      </div>
      <p className="text-sm text-soft">
        Its columns go where they went the last time that a file was brought into the table by hand.{' '}
        {table && (
          <Link to={to('data', table.name, { show: 'bring' })} className="underline">
            Fetch it now, and tell where its columns go
          </Link>
        )}
      </p>
      <TimedRuns kind="brought" subject={brought.id} />
    </div>
  );
}
