import { useState } from 'react';
import { useSearchParams } from 'react-router';
import type { DataClass } from '../../../core/definition/definition';
import { counted } from '../../../core/text/counted';
import { useWhoThen, type AskedThen, type ToldThen } from '../../client/who-then';
import { problemText } from '../../client/http';
import { minuteText } from '../../records/member-words';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Notice, Skeleton } from '../../ui/Notice';
import { Stones } from '../../ui/Stones';
import { ColumnChoice } from '../access/ColumnChoice';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';
import { StageHead } from '../bench/StageFrame';

/** Who could see a column, a data class or a cell at a moment that is over: from what was recorded, never a guess. */
export function WhoThen() {
  const { slug } = useBench();
  const [params, setParams] = useSearchParams();
  const [table, column, ofClass, at, record] = ['table', 'column', 'class', 'at', 'record'].map(
    (name) => params.get(name) ?? '',
  ) as [string, string, string, string, string];
  const [typed, setTyped] = useState(() => ({ at: ownMinute(at ? new Date(at) : yesterday()), record }));
  const set = (next: Record<string, string>) =>
    setParams(new URLSearchParams(Object.entries(next).filter(([, value]) => value !== '')), { replace: true });
  const asked: AskedThen | null =
    at === ''
      ? null
      : ofClass
        ? { at, class: ofClass as DataClass }
        : table
          ? { at, table, column, ...(record ? { record } : {}) }
          : null;
  const told = useWhoThen(slug, asked);
  return (
    <>
      <StageHead title="Who could see it" />
      <div className="grid gap-4 p-4">
        <p className="max-w-160 text-soft">
          By the version that was live and the roles that were recorded at the moment. What was not recorded is said to
          be not known.
        </p>
        <div className="flex flex-wrap items-center gap-2">
          <ColumnChoice
            chosen={{ table, column, class: ofClass }}
            onChoose={(next) => set({ ...next, at: '', record: '' })}
          />
        </div>
        <form
          className="flex flex-wrap items-end gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            const moment = new Date(typed.at);
            if (!Number.isNaN(moment.getTime()))
              set({
                table,
                column,
                class: ofClass,
                at: moment.toISOString(),
                record: table ? typed.record.trim() : '',
              });
          }}
        >
          <Field label="When">
            {(ids) => (
              <input
                className="field w-auto"
                {...ids}
                type="datetime-local"
                required
                value={typed.at}
                max={ownMinute(new Date())}
                onChange={(event) => setTyped({ ...typed, at: event.target.value })}
              />
            )}
          </Field>
          {table && (
            <Field label="In one record, by its key, or in any">
              {(ids) => (
                <input
                  className="field w-64"
                  {...ids}
                  value={typed.record}
                  onChange={(event) => setTyped({ ...typed, record: event.target.value })}
                />
              )}
            </Field>
          )}
          <Button type="submit" weight="main" disabled={!table && !ofClass}>
            Look it up
          </Button>
        </form>
        {told.isError && <Notice kind="fault">{problemText(told.error)}</Notice>}
        {asked && told.isPending && !told.isError && <Skeleton />}
        {asked && told.data && <Told told={told.data} ofRecord={record !== ''} />}
      </div>
    </>
  );
}

const yesterday = (): Date => new Date(Date.now() - 86_400_000);

/** As a field for a moment takes it, in the reader's own time. */
function ownMinute(moment: Date): string {
  return new Date(moment.getTime() - moment.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);
}

function Told({ told: { version, looks, ceilingsSince, found }, ofRecord }: { told: ToldThen; ofRecord: boolean }) {
  const names = useNames();
  if (!version) return <Notice kind="say">Nothing was live then, so nobody could see anything of it.</Notice>;
  return (
    <>
      <p className="text-sm text-soft">
        Version {version.number} was live, since {minuteText(version.since)}. {looksSentence(looks)}
        {ceilingsSince && ' Ceilings were set since then; they are taken as they are now.'}
      </p>
      {found.length === 0 && <Notice kind="say">No column had this class then.</Notice>}
      {found.map((each) => (
        <section key={`${each.table}.${each.column}`} className="grid gap-2">
          <h2 className="text-base">
            {names.table(each.table)}: {names.column(each.table, each.column)}
          </h2>
          {each.people.length === 0 && each.unsure.length === 0 && <p className="text-soft">Nobody could see it.</p>}
          {each.people.map((group, i) => (
            <details key={i} className="rounded-stone border border-line px-3 py-1.5">
              <summary className="cursor-pointer">
                <span className="inline-flex items-center gap-2">
                  <Stones level={group.reach.level} />
                  {counted(group.people.length, 'person', 'people')}: {sawWords(group, ofRecord)}
                </span>{' '}
                <span className="text-soft">as {names.roles(group.reach.through)}</span>
              </summary>
              <People people={group.people} />
            </details>
          ))}
          {each.unsure.length > 0 && (
            <details className="rounded-stone border border-dashed border-line-strong px-3 py-1.5">
              <summary className="cursor-pointer">
                {counted(each.unsure.length, 'person', 'people')}:{' '}
                {looks.after === null
                  ? 'not known, as their roles were not looked at since'
                  : looks.before === null
                    ? 'not known, as their roles had not been looked at'
                    : 'not known, as their roles changed between two looks'}
              </summary>
              <People people={each.unsure} />
            </details>
          )}
        </section>
      ))}
    </>
  );
}

function looksSentence({ before, after }: ToldThen['looks']): string {
  if (before === null) return `Roles were first looked at on ${minuteText(after)}.`;
  if (after === null) return `Roles were last looked at on ${minuteText(before)}.`;
  return `Roles were looked at on ${minuteText(before)} and on ${minuteText(after)}.`;
}

type Group = ToldThen['found'][number]['people'][number];

function sawWords({ reach: { level, mask }, rows, saw }: Group, ofRecord: boolean): string {
  const how = level === 'masked' ? `masked (${mask})` : 'whole';
  if (!ofRecord) return rows === 'every row' ? `${how}, in every row` : `${how}, where ${rows}`;
  if (saw === 'not known') return 'not known of this record';
  return saw === 'hidden' ? 'not in this record' : `${how}, in this record`;
}

const People = ({ people }: { people: Group['people'] }) => (
  <p className="mt-1 max-h-40 overflow-y-auto text-sm">{people.map(({ name }) => name).join(', ')}</p>
);
