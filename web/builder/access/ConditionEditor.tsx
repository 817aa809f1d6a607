import { counted } from '../../../core/text/counted';
import { lazy, Suspense, useMemo, useState } from 'react';
import { checkCondition, readCondition } from '../../../core/condition/check';
import { ConditionError } from '../../../core/condition/tokens';
import { describeCondition } from '../../../core/condition/describe';
import { printCondition } from '../../../core/condition/print';
import type { Condition } from '../../../core/condition/tree';
import type { Table } from '../../../core/table/catalogue';
import type { Role } from '../../../core/definition/definition';
import { seenByBase } from '../../client/bench';
import { useConditionCount, useRoleCount, type RoleCount } from '../../client/builder';
import { useMe } from '../../client/portal';
import { problemText } from '../../client/http';
import { Button } from '../../ui/Button';
import { useNaming } from '../bench/names';
import { useBench, type BenchPerson } from '../bench/bench-context';
import { NamedFilterChoice } from './NamedFilterChoice';
import { Sentence } from './Sentence';
import { RowAlone, NoMember } from './ValueBox';

/** Conditions are sentences until somebody asks for the text. */
const ConditionText = lazy(() => import('./ConditionText').then((part) => ({ default: part.ConditionText })));

/**
 * A condition as a sentence with choices or as text, with how many rows it lets through for the person in Seen by. One
 * that stands `alone` speaks of the row's own columns and fixed values only, and is the same for everyone.
 */
export function ConditionEditor({
  table: whole,
  role = null,
  alone = false,
  nameable = true,
  name,
  value,
  onChange,
}: {
  table: Table;
  role?: Role | null;
  alone?: boolean;
  /** Whether it may be one of the table's named filters. */
  nameable?: boolean;
  name: string;
  value: Condition;
  onChange: (condition: Condition) => Promise<string | null>;
}) {
  const { catalogue, slug, person, state } = useBench();
  const naming = useNaming();
  const [mode, setMode] = useState<'sentence' | 'text'>('sentence');
  const [tree, setTree] = useState(value);
  const [text, setText] = useState(printCondition(value));
  const [given, setGiven] = useState(value);
  const [fault, setFault] = useState<string | null>(null);
  const table = useMemo(() => (alone ? { ...whole, relations: [], many: [] } : whole), [alone, whole]);
  const scope = { catalogue, table, member: !alone };
  // A change from elsewhere (undo, another builder) takes the place of what is shown.
  if (JSON.stringify(given) !== JSON.stringify(value)) {
    setGiven(value);
    setTree(value);
    setText(printCondition(value));
    setFault(null);
  }

  const change = (next: Condition) => {
    setTree(next);
    setText(printCondition(next));
    const problem = checkCondition(next, scope)[0];
    setFault(problem ? problem.reason : null);
    if (!problem) void onChange(next).then(setFault);
  };
  const type = (next: string) => {
    setText(next);
    setFault(textFault(next));
  };
  const textFault = (source: string): string | null => {
    try {
      readCondition(source, scope);
      return null;
    } catch (error) {
      return error instanceof ConditionError ? error.message : problemText(error);
    }
  };
  const useText = () => {
    const problem = textFault(text);
    setFault(problem);
    if (problem === null) {
      const next = readCondition(text, scope);
      setTree(next);
      setText(printCondition(next));
      if (JSON.stringify(next) !== JSON.stringify(value)) void onChange(next).then(setFault);
    }
    return problem === null;
  };

  // What is being typed is not what is kept, and the numbers of one say nothing of the other.
  const typing = mode === 'text' && fault === null && text.trim() !== printCondition(tree);

  const isNamed = nameable && tree.named !== undefined;
  return (
    <div className="grid gap-2">
      {nameable && !alone && <NamedFilterChoice table={table} condition={tree} onChange={change} />}
      <div className="flex flex-wrap items-start gap-2">
        <div className="min-w-0 flex-1">
          {isNamed ? (
            <p>where {describeCondition(tree, naming(whole.name))}</p>
          ) : mode === 'sentence' ? (
            <NoMember value={role?.for !== undefined}>
              <RowAlone value={alone}>
                <Sentence table={table} condition={tree} onChange={change} />
              </RowAlone>
            </NoMember>
          ) : (
            <Suspense>
              <ConditionText
                table={table}
                name={name}
                text={text}
                wrong={fault !== null}
                onChange={type}
                onDone={useText}
              />
            </Suspense>
          )}
        </div>
        {/* The press itself takes the text: leaving the field first would move the button from under it. */}
        {!isNamed && (
          <Button
            small
            onMouseDown={(event) => event.preventDefault()}
            onClick={() => {
              if (mode === 'sentence') setMode('text');
              else if (useText()) setMode('sentence');
            }}
          >
            {mode === 'sentence' ? 'As text' : 'As sentence'}
          </Button>
        )}
      </div>
      {mode === 'sentence' && (
        <code className="block rounded-stone border border-line bg-sunk px-3 py-1.5 font-code text-sm break-words">
          {text}
        </code>
      )}
      {fault ? (
        <p role="alert" className="text-sm font-medium text-iron">
          {fault}. Not saved yet.
        </p>
      ) : typing ? (
        <p className="text-sm text-soft" data-testid="not-applied">
          Not applied yet. Leave the field or press Ctrl+Enter to apply and count it.
        </p>
      ) : (
        <Passing
          slug={slug}
          table={table.name}
          text={printCondition(tree)}
          person={person}
          role={role}
          alone={alone}
          revision={state.revision}
        />
      )}
    </div>
  );
}

function Passing({
  slug,
  table,
  text,
  person,
  role,
  alone,
  revision,
}: {
  slug: string;
  table: string;
  text: string;
  person: BenchPerson | null;
  role: Role | null;
  alone: boolean;
  revision: number;
}) {
  const me = useMe(seenByBase(slug, person?.id ?? 0), role !== null && person !== null);
  const lacks = role !== null && person !== null && me.data !== undefined && !me.data.member.roles.includes(role.name);
  const count = useConditionCount(slug, table, text, alone ? 'visitor' : (person?.id ?? null), revision);
  const [all, setAll] = useState(false);
  const ofRole = useRoleCount(slug, table, text, role?.id ?? null, all, revision);
  if (!count.data)
    return <p className="text-sm text-soft">{count.isError ? problemText(count.error) : 'Counting …'}</p>;
  // It is null only where a role is counted.
  const [passing, total] = [count.data.passing, count.data.total!];
  const members = ofRole.data?.role;
  return (
    <div className="text-sm text-soft">
      {lacks ? (
        <p>
          {person.name} has not the role {role.name}: for them it counts nothing. Choose somebody in Seen by who has it.
        </p>
      ) : alone ? (
        <p data-testid="lets-through">
          Holds for{' '}
          <strong className={passing === 0 ? 'text-iron' : 'text-ink'}>
            {(passing ?? 0).toLocaleString()} of {total.toLocaleString()}
          </strong>{' '}
          rows of {table}
        </p>
      ) : passing === null || !person ? (
        <p>Choose a person in Seen by to see how many of {counted(total, 'row')} it lets through for them.</p>
      ) : (
        <p data-testid="lets-through">
          Lets through{' '}
          <strong className={passing === 0 ? 'text-iron' : 'text-ink'}>
            {passing.toLocaleString()} of {total.toLocaleString()}
          </strong>{' '}
          for {person.name}
        </p>
      )}
      {role && members && <RoleNumbers members={members} role={role} onAll={all ? null : () => setAll(true)} />}
      {role && ofRole.isPending && <p>Counting for every {role.name} …</p>}
    </div>
  );
}

/** How the condition treats all members of a role, and for whom it lets nothing through. */
function RoleNumbers({ members, role, onAll }: { members: RoleCount; role: Role; onAll: (() => void) | null }) {
  const { setPerson } = useBench();
  const { people, least, most, withNone, none, inRole } = members;
  return (
    <>
      <p data-testid="lets-through-role">
        {least === most ? least.toLocaleString() : `between ${least.toLocaleString()} and ${most.toLocaleString()}`} for
        each of{' '}
        {inRole > people
          ? `${people.toLocaleString()} of the ${inRole.toLocaleString()}`
          : `the ${people.toLocaleString()}`}{' '}
        {inRole === 1 ? 'member' : 'members'} in the role {role.name}
        {withNone > 0 && (
          <>
            {' '}
            ·{' '}
            <strong className="text-iron">
              0 for {withNone.toLocaleString()} {withNone === 1 ? 'member' : 'members'}
            </strong>
          </>
        )}
        {inRole > people && onAll && (
          <>
            {' '}
            ·{' '}
            <button type="button" className="text-water underline" onClick={onAll}>
              count for all
            </button>
          </>
        )}
      </p>
      {withNone > 0 && (
        <details>
          <summary className="cursor-pointer text-water">Who gets none</summary>
          <ul className="mt-1 flex max-h-28 flex-wrap gap-x-3 overflow-y-auto">
            {none.map((each) => (
              <li key={each.id}>
                <button
                  type="button"
                  className="text-water underline"
                  onClick={() => setPerson({ id: each.id!, name: each.name })}
                >
                  {each.name}
                </button>
              </li>
            ))}
            {withNone > none.length && <li>and {(withNone - none.length).toLocaleString()} more</li>}
          </ul>
        </details>
      )}
    </>
  );
}
