import { constantOf, constantText } from '../../../core/condition/constant';
import { isConstant } from '../../../core/condition/operand-value';
import type { SignUp } from '../../../core/definition/sign-up';
import { askedOf } from '../../../core/people/sign-ups';
import { findColumn, findTable, isClosed } from '../../../core/table/catalogue';
import { DateInput } from '../../records/DateInput';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Notice } from '../../ui/Notice';
import { Select } from '../../ui/Select';
import { Ticks } from '../access/GrantParts';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';
import { DomainsField } from './DomainsField';
import { memberRoles, RosterChoice } from './StewardParts';

/** What a sign-up asks, what it says by itself, and its limits. */
export function SignUpFields({ signUp }: { signUp: SignUp }) {
  const { draft, catalogue, edit } = useBench();
  const names = useNames();
  const table = findTable(catalogue, signUp.roster);
  const change = (label: string, recipe: (signUp: SignUp) => void) =>
    edit(label, (next) => {
      const found = next.signUps?.find((each) => each.id === signUp.id);
      if (found) recipe(found);
    });
  if (!table) return <Notice kind="fault">There is no roster {signUp.roster} any more.</Notice>;
  const open = table.columns
    .filter(
      ({ name, automatic, type, kind }) => !automatic && type !== 'other' && kind !== 'file' && !isClosed(table, name),
    )
    .map(({ name }) => name);
  // Asked of nobody: what decides who somebody is.
  const asked = askedOf(draft, catalogue, { ...signUp, asks: open });
  const setRoster = (roster: string) =>
    void change('Choose the roster of a sign-up', (next) => {
      Object.assign(next, { roster, asks: [], fills: [] });
    });
  return (
    <>
      <Field label="What it is called, to whoever opens the link">
        {(ids) => (
          <input
            className="field max-w-120"
            {...ids}
            key={signUp.name}
            defaultValue={signUp.name}
            maxLength={120}
            onBlur={(event) => {
              const name = event.target.value.trim();
              if (name && name !== signUp.name)
                void change('Name a sign-up', (next) => {
                  next.name = name;
                });
            }}
          />
        )}
      </Field>
      <RosterChoice label="They become a row of" value={signUp.roster} onPick={setRoster} />
      <Ticks
        legend="They are asked, beside their e-mail"
        table={table}
        names={asked}
        ticked={signUp.asks}
        onChange={(tick) =>
          void change('Set what a sign-up asks', (next) => {
            next.asks = tick(next.asks);
          })
        }
      />
      <Fills
        signUp={signUp}
        table={table}
        free={open.filter((name) => !signUp.fills.some(({ column }) => column === name))}
        change={change}
      />
      <div className="grid max-w-200 gap-4 sm:grid-cols-2">
        <Field label="Only until" hint="The last day, in the portal's time zone.">
          {(ids) => (
            <DateInput
              label="Only until"
              inputProps={ids}
              value={signUp.ends ?? ''}
              onChange={(ends) => {
                // While it is typed it is no day yet.
                if (ends !== '' && !/^\d{4}-\d{2}-\d{2}$/.test(ends)) return;
                void change('Set until when a sign-up works', (next) => {
                  if (ends) next.ends = ends;
                  else delete next.ends;
                });
              }}
            />
          )}
        </Field>
        <Field label="People at most">
          {(ids) => (
            <input
              type="number"
              min={1}
              max={100_000}
              className="field"
              {...ids}
              key={signUp.uses}
              defaultValue={signUp.uses ?? ''}
              onBlur={(event) => {
                const uses = event.target.value === '' ? undefined : Number(event.target.value);
                if (uses !== signUp.uses)
                  void change('Set how many come in by a sign-up', (next) => {
                    if (uses === undefined) delete next.uses;
                    else next.uses = uses;
                  });
              }}
            />
          )}
        </Field>
        <DomainsField
          label="Only addresses of"
          domains={signUp.domains}
          onChange={(domains) =>
            void change('Set the domains of a sign-up', (next) => {
              if (domains.length > 0) next.domains = domains;
              else delete next.domains;
            })
          }
        />
        <Field label="Who must agree">
          {(ids) => (
            <Select
              {...ids}
              value={signUp.approver ?? ''}
              onPick={(role) =>
                void change('Set who agrees to a sign-up', (next) => {
                  if (role) next.approver = role;
                  else delete next.approver;
                })
              }
            >
              <option value="">nobody: they come in once they proved their address</option>
              {memberRoles(draft)}
            </Select>
          )}
        </Field>
      </div>
      {signUp.approver !== undefined &&
        !draft.pages.some(({ sections }) => sections.some(({ kind }) => kind === 'requests')) && (
          <Notice kind="warn">
            No page has the place for requests, so {names.role(signUp.approver)} can&apos;t answer them. Put “Requests
            to come in” on one under Pages; until then they are answered here.
          </Notice>
        )}
    </>
  );
}

type Change = (label: string, recipe: (signUp: SignUp) => void) => Promise<string | null>;

/** What the link says of the row, whatever anybody fills in. */
function Fills({
  signUp,
  table,
  free,
  change,
}: {
  signUp: SignUp;
  table: NonNullable<ReturnType<typeof findTable>>;
  free: string[];
  change: Change;
}) {
  const names = useNames();
  const first = (name: string) => {
    const column = findColumn(table, name);
    return constantOf(
      column?.type,
      column?.choices?.[0] ?? (column?.type === 'yes/no' ? 'true' : ''),
    ) as SignUp['fills'][number]['value'];
  };
  return (
    <fieldset className="grid gap-2">
      <legend className="text-sm font-semibold">The link says of the row</legend>
      {signUp.fills.map((fill, i) => {
        const column = findColumn(table, fill.column);
        const text = isConstant(fill.value) ? (constantText(fill.value) ?? '') : '';
        const set = (next: string) =>
          void change('Set what a sign-up says', (each) => {
            each.fills[i]!.value = constantOf(column?.type, next) as SignUp['fills'][number]['value'];
          });
        const label = names.column(table.name, fill.column);
        return (
          <div key={fill.column} className="flex flex-wrap items-center gap-2">
            <span>{label} is</span>
            {column?.choices ? (
              <Select className="w-auto" aria-label={label} value={text} onPick={set}>
                {column.choices.map((choice) => (
                  <option key={choice}>{choice}</option>
                ))}
              </Select>
            ) : (
              <input
                className="field w-48"
                aria-label={label}
                key={text}
                defaultValue={text}
                onBlur={(event) => event.target.value !== text && set(event.target.value)}
              />
            )}
            <Button
              small
              weight="quiet"
              onClick={() =>
                void change('Let a sign-up say less', (each) => {
                  each.fills = each.fills.filter(({ column: name }) => name !== fill.column);
                })
              }
            >
              Remove<span className="sr-only"> {label}</span>
            </Button>
          </div>
        );
      })}
      <Select
        className="max-w-80"
        aria-label="Let the link say more"
        value=""
        onPick={(name) =>
          name &&
          void change('Let a sign-up say more', (each) => {
            each.fills.push({ column: name, value: first(name) });
            each.asks = each.asks.filter((one) => one !== name);
          })
        }
      >
        <option value="">say more …</option>
        {free.map((name) => (
          <option key={name} value={name}>
            {names.column(table.name, name)}
          </option>
        ))}
      </Select>
    </fieldset>
  );
}
