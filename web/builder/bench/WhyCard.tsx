import { columnsWritten } from '../../../core/definition/action';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { Check, Minus, X } from 'lucide-react';
import { describeCondition, type Naming } from '../../../core/condition/describe';
import type { Trace } from '../../../core/condition/evaluate';
import { maskLabel } from '../../../core/mask/mask';
import type { Openness } from '../../../core/access/lens';
import { problemText } from '../../client/http';
import { useWhy, type Explanation } from '../../client/builder';
import { Button } from '../../ui/Button';
import { Notice, Skeleton } from '../../ui/Notice';
import { useBench, type BenchPerson } from './bench-context';
import { useNames, useNaming } from './names';

/** A cell, or a whole record, that is asked about. */
export interface AskedCell {
  table: string;
  id: string;
  column: string | null;
}

/** Why the person gets one cell as they do: each role, its filter with the values compared, the mask. */
export function WhyCard({
  person,
  cell,
  revision,
  onClose,
}: {
  person: BenchPerson;
  cell: AskedCell;
  revision: number;
  onClose: () => void;
}) {
  const { slug, draft, to } = useBench();
  const names = useNames();
  const why = useWhy(slug, person.id, revision, cell);
  const roleName = (id: string) => draft.roles.find((role) => role.id === id)?.name ?? id;
  const writes = (id: string) => {
    const action = draft.actions?.find((each) => each.id === id);
    return cell.column === null || (action !== undefined && columnsWritten(action).includes(cell.column));
  };
  return (
    <section aria-label="Why" className="rounded-stone border border-line bg-paper p-3">
      <div className="flex items-start gap-2">
        <h2 className="flex-1 text-base break-words">
          {cell.column === null ? '' : `${names.column(cell.table, cell.column)} of `}
          {names.table(cell.table)} {decodeURIComponent(cell.id)} is {why.data ? stateWord(why.data) : '…'}
        </h2>
        <Button small onClick={onClose}>
          Close
        </Button>
      </div>
      {why.isPending && <Skeleton lines={3} />}
      {why.isError && <Notice kind="fault">{problemText(why.error)}</Notice>}
      {why.data && (
        <ul className="mt-2 grid gap-2">
          {why.data.ceiling && (
            <Line outcome={false}>
              the <Link to={to('data', cell.table)}>ceiling</Link> lets nobody{' '}
              {why.data.ceiling === 'nothing' ? 'read' : 'change'} this column
            </Line>
          )}
          {why.data.roles.length === 0 && <Line outcome={false}>{person.name} has no role in this portal.</Line>}
          {why.data.roles.map((role) => (
            <li key={`${role.role} ${role.steward ?? ''}`} className="grid gap-1">
              <strong>
                {role.steward === undefined ? (
                  <Link
                    to={to('access', cell.table, { role: role.role, ...(cell.column ? { column: cell.column } : {}) })}
                  >
                    {roleName(role.role)}
                  </Link>
                ) : (
                  <Link to={to('people', '~stewards', { rule: role.steward })}>{names.steward(role.steward)}</Link>
                )}
              </strong>
              {!role.granted && <Line outcome={false}>is granted nothing here</Line>}
              {role.see && <RowsLines table={cell.table} rows={role.see} nothing="sees every row" />}
              {role.openness && (
                <Line
                  outcome={role.openness.level === 'shown' ? true : role.openness.level === 'masked' ? null : false}
                >
                  the column is {opennessWord(role.openness)} for this role
                </Line>
              )}
              {role.actions
                .filter(({ action }) => writes(action))
                .map(({ action, fromHere, where }) => (
                  <Line key={action} outcome={fromHere && where.holds}>
                    {fromHere && where.holds ? 'may' : "can't now"}
                    {cell.column === null ? ' do ' : ' write it here through '}
                    <Link to={to('pages', '!actions', { rule: action })}>{names.action(action)}</Link>
                  </Line>
                ))}
              {role.masks.map((mask) => (
                <Line key={mask.id} outcome={null}>
                  the mask <Link to={to('access', '~masks')}>{mask.id}</Link> ({maskLabel(mask.mask)}):{' '}
                  {maskWords[mask.outcome]}
                </Line>
              ))}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

export type RowsExplanation = NonNullable<Explanation['roles'][number]['see']>;

const originWords = {
  filter: 'row filter',
  'keep-in': 'keep-in rule',
  fence: 'fence',
  move: 'move',
  action: 'action',
  ceiling: 'ceiling',
};

const maskWords = {
  decides: 'it decides',
  'a stricter one decides': 'a stricter one decides',
  'for other roles': 'it is for other roles',
  'role excepted': 'this role is excepted',
  'member excepted': 'this member is excepted',
};

/** A row rule on one record: each part with the values compared, and where it is set. */
export function RowsLines({ table, rows, nothing }: { table: string; rows: RowsExplanation; nothing: string }) {
  const { to } = useBench();
  const naming = useNaming();
  const place = {
    fence: to('access', '~fences'),
    ceiling: to('data', table),
    move: to('access', '~lifecycles'),
    action: to('pages', '!actions'),
  };
  if (!rows.parts) return <Line outcome={false}>sees no row</Line>;
  if (rows.parts.length === 0) return <Line outcome>{nothing}</Line>;
  return (
    <>
      {rows.parts.map((part, i) => (
        <div key={i} className="grid gap-1">
          {part.origin.kind !== 'filter' && (
            <Line outcome={part.holds}>
              the{' '}
              {part.origin.kind === 'keep-in' ? (
                originWords[part.origin.kind]
              ) : (
                <Link to={place[part.origin.kind]}>{originWords[part.origin.kind]}</Link>
              )}
              {'id' in part.origin ? ` ${part.origin.id}` : ''}
            </Line>
          )}
          <TraceLine trace={part.trace} naming={naming(table)} />
        </div>
      ))}
    </>
  );
}

function stateWord(why: Explanation): string {
  if (!why.inView) return 'not in view';
  const word = why.cell ? opennessWord(why.cell) : 'in view';
  return why.editable ? `${word}, and editable` : word;
}

function opennessWord(openness: Openness): string {
  return openness.level === 'masked' ? `masked (${maskLabel(openness.mask)})` : openness.level;
}

function TraceLine({ trace, naming }: { trace: Trace; naming: Naming }) {
  if (trace.parts) {
    return (
      <div className="grid gap-1">
        {trace.condition.kind !== 'not' && (
          <Line outcome={trace.outcome}>
            {trace.condition.kind === 'all' ? 'all of these hold' : 'any of these holds'}
          </Line>
        )}
        {trace.condition.kind === 'not' && <Line outcome={trace.outcome}>this does not hold</Line>}
        <div className="ml-4 grid gap-1">
          {trace.parts.map((part, i) => (
            <TraceLine key={i} trace={part} naming={naming} />
          ))}
        </div>
      </div>
    );
  }
  const compared = trace.values?.map((value) => (value === null ? 'nothing' : String(value))).join(' against ');
  return (
    <Line outcome={trace.outcome}>
      {describeCondition(trace.condition, naming)}{' '}
      {compared !== undefined && <span className="text-soft">({compared})</span>}
    </Line>
  );
}

export function Line({ outcome, children }: { outcome: boolean | null; children: ReactNode }) {
  const icon =
    outcome === true ? (
      <Check size={15} aria-label="holds" className="text-lichen-ink" />
    ) : outcome === false ? (
      <X size={15} aria-label="does not hold" className="text-iron" />
    ) : (
      <Minus size={15} aria-label="unknown or partly" className="text-ochre" />
    );
  return (
    <span className="flex gap-2">
      <span className="mt-1 shrink-0">{icon}</span>
      <span className="min-w-0 break-words">{children}</span>
    </span>
  );
}
