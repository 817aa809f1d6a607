import { useState } from 'react';
import { describeCondition } from '../../../core/condition/describe';
import type { Condition } from '../../../core/condition/tree';
import type { FieldRule } from '../../../core/definition/definition';
import { freeId } from '../../../core/definition/free-id';
import { findTable, type Table } from '../../../core/table/catalogue';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Notice } from '../../ui/Notice';
import { Select } from '../../ui/Select';
import { useBench } from '../bench/bench-context';
import { useNames, useNaming } from '../bench/names';
import { AddOn } from './AddOn';
import { firstCondition } from './choices';
import { ConditionEditor } from './ConditionEditor';
import { Ticks } from './GrantParts';
import { Rule, RuleList, someOf, useOpenRule } from './RuleList';

const does: Record<FieldRule['does'], string> = {
  required: 'must hold something',
  kept: 'can no longer be changed',
  refused: 'is refused',
};

const firstWords = 'This does not go together.';

type Change = (label: string, recipe: (rule: FieldRule) => void) => Promise<string | null>;

/** What tables ask of their records, whoever writes one. */
export function FieldRules() {
  const { draft, catalogue, edit } = useBench();
  const names = useNames();
  const naming = useNaming();
  const { setOpen } = useOpenRule();
  // A new one asks nothing of anybody before it is said what and when.
  const [fresh, setFresh] = useState<{ table: string; rule: FieldRule } | null>(null);
  const all = [
    ...Object.entries(draft.tables).flatMap(([table, { rules = [] }]) => rules.map((rule) => ({ table, rule }))),
    ...(fresh ? [fresh] : []),
  ];
  const add = (table: string) => {
    const column = findTable(catalogue, table)!.columns.find((each) => each.nullable && !each.automatic);
    const id = freeId('rule', draft.tables[table]?.rules ?? []);
    setOpen(`${table}/${id}`);
    setFresh({ table, rule: { id, does: 'required', columns: column ? [column.name] : [] } });
  };
  const keep = ({ table, rule }: { table: string; rule: FieldRule }) =>
    void edit(`Add a field rule of ${table}`, (next) => {
      ((next.tables[table] ??= {}).rules ??= []).push(rule);
    }).then((problem) => problem === null && setFresh(null));
  const change =
    (table: string, id: string): Change =>
    async (label, recipe) => {
      if (fresh?.table !== table || fresh.rule.id !== id)
        return edit(`${label} of ${table}`, (next) =>
          recipe(next.tables[table]!.rules!.find((each) => each.id === id)!),
        );
      const rule = structuredClone(fresh.rule);
      recipe(rule);
      setFresh({ table, rule });
      return null;
    };
  const remove = (table: string, id: string) =>
    void edit(`Remove a field rule of ${table}`, (next) => {
      const rest = next.tables[table]!.rules!.filter((each) => each.id !== id);
      if (rest.length > 0) next.tables[table]!.rules = rest;
      else delete next.tables[table]!.rules;
    });
  return (
    <>
      {all.length > 0 && (
        <RuleList>
          {all.map(({ table, rule }) => {
            const isFresh = rule === fresh?.rule;
            return (
              <Rule
                key={`${table}/${rule.id}`}
                id={`${table}/${rule.id}`}
                kind="Field rule"
                sentence={
                  <>
                    <strong>
                      {names.table(table)}: {someOf(rule.columns.map((each) => names.column(table, each))) || '…'}
                    </strong>{' '}
                    {does[rule.does]}
                    {rule.when && ` when ${describeCondition(rule.when, naming(table))}`}
                  </>
                }
                loses="Records are then taken that are refused today."
                onRemove={isFresh ? undefined : () => remove(table, rule.id)}
              >
                <Body table={findTable(catalogue, table)} name={table} rule={rule} change={change(table, rule.id)} />
                {isFresh && (
                  <div className="flex gap-2">
                    <Button
                      small
                      weight="main"
                      disabled={rule.columns.length === 0 || (rule.does === 'refused' && !rule.message)}
                      onClick={() => keep({ table, rule })}
                    >
                      Add this field rule
                    </Button>
                    <Button small onClick={() => setFresh(null)}>
                      Cancel
                    </Button>
                  </div>
                )}
              </Rule>
            );
          })}
        </RuleList>
      )}
      <AddOn words="a field rule of" onAdd={add} />
    </>
  );
}

function Body({
  table,
  name,
  rule,
  change,
}: {
  table: Table | undefined;
  name: string;
  rule: FieldRule;
  change: Change;
}) {
  if (!table) return <Notice kind="fault">There is no table {name} any more.</Notice>;
  const setDoes = (next: FieldRule['does']) =>
    void change('Set the kind of a field rule', (each) => {
      each.does = next;
      // What is refused needs a condition and words; words that nobody chose go with it.
      if (next !== 'refused' && each.message === firstWords) delete each.message;
      if (next !== 'refused') return;
      each.when ??= firstCondition(table);
      each.message ??= firstWords;
    });
  const setWhen = (when: Condition | null) =>
    change('Set the condition of a field rule', (each) => {
      if (when) each.when = when;
      else delete each.when;
    });
  return (
    <>
      <Ticks
        legend="Columns"
        table={table}
        names={table.columns.filter((each) => !each.automatic).map((each) => each.name)}
        ticked={rule.columns}
        onChange={(next) =>
          void change('Set the columns of a field rule', (each) => {
            const columns = next(each.columns);
            // It is about at least one.
            if (columns.length > 0) each.columns = columns;
          })
        }
      />
      <div className="flex flex-wrap items-center gap-2">
        <span>Each of them</span>
        <Select
          aria-label="What it does"
          className="w-auto"
          value={rule.does}
          onPick={(next) => setDoes(next as FieldRule['does'])}
        >
          {Object.entries(does).map(([key, words]) => (
            <option key={key} value={key}>
              {words}
            </option>
          ))}
        </Select>
        {rule.does !== 'refused' && (
          <Select
            aria-label="When it holds"
            className="w-auto"
            value={rule.when ? 'when' : 'always'}
            onPick={(next) => void setWhen(next === 'when' ? firstCondition(table) : null)}
          >
            <option value="always">always</option>
            <option value="when">when …</option>
          </Select>
        )}
      </div>
      {rule.when && (
        <ConditionEditor table={table} name={`When ${rule.id} holds`} value={rule.when} onChange={setWhen} />
      )}
      <div className="max-w-120">
        <Field
          label="What the person then reads"
          hint={rule.does === 'refused' ? undefined : 'Words of ours when empty.'}
        >
          {(ids) => (
            <input
              className="field"
              {...ids}
              key={rule.message}
              defaultValue={rule.message ?? ''}
              maxLength={300}
              onBlur={(event) => {
                const words = event.target.value.trim();
                if (words === (rule.message ?? '') || (words === '' && rule.does === 'refused')) return;
                void change('Set the words of a field rule', (each) => {
                  if (words) each.message = words;
                  else delete each.message;
                });
              }}
            />
          )}
        </Field>
      </div>
    </>
  );
}
