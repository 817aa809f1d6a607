import { counted } from '../../../core/text/counted';
import { useCallback, useState } from 'react';
import { useQueryClient } from '@tanstack/react-query';
import { KeyRound } from 'lucide-react';
import { useLocation, useNavigate, useSearchParams } from 'react-router';
import { oneRowAPerson } from '../../../core/check/one-row';
import { dataClasses, type DataClass } from '../../../core/definition/definition';
import { sourceName } from '../../../core/definition/sources';
import { findTable, type Relation, type Table } from '../../../core/table/catalogue';
import { allRecords, useSuggestions, useTableCounts } from '../../client/builder';
import { useLookAgain } from '../../client/sources';
import { Grid, type KeptQuestion } from '../../grid/Grid';
import { LookAgain } from './LookAgain';
import { Button } from '../../ui/Button';
import { Notice } from '../../ui/Notice';
import { useAddress } from '../bench/address';
import { useBench } from '../bench/bench-context';
import { StageFrame, StageHead } from '../bench/StageFrame';
import { Deleted, IndexAdvice } from './Deleted';
import { DrawTable } from './DrawTable';
import { AddColumn, ShapeColumn, ShapeTable } from './ShapeColumn';
import { ExportAction } from './ExportAction';
import { FileToTable } from './FileToTable';
import { CeilingEditor } from './CeilingEditor';
import { SavedQuery, SavedQueryEditor } from './SavedQueryEditor';
import { FromScript } from './FromScript';
import { FurtherSources } from './FurtherSources';
import { RelateByHand } from './RelateByHand';
import { ImportIntoTable } from './ImportIntoTable';
import { QueryColumn } from './QueryColumn';
import { TableKey } from './TableKey';

type Making = 'file' | 'drawn' | 'script' | 'query' | 'source';

/** The tables of the portal's sources as the databases' own catalogues have them, with their rows. */
export default function DataStage() {
  const { slug, state, catalogue, draft, object, to } = useBench();
  const navigate = useNavigate();
  const [params, setAddress] = useAddress();
  // Check leads here with a roster in which an e-mail stands many times.
  const roster = draft.rosters.find((each) => each.table === params.get('one-row'));
  const people = roster && findTable(catalogue, roster.table);
  const proposed = roster && people ? oneRowAPerson(roster, people, catalogue) : null;
  const [making, setMaking] = useState<Making | 'look' | null>(proposed ? 'query' : null);
  // A link to a table leaves what was being made or looked at.
  const { key: visit } = useLocation();
  const [visited, setVisited] = useState(visit);
  if (visit !== visited) {
    setVisited(visit);
    setMaking(proposed ? 'query' : null);
  }
  const bringing = making !== null;
  const look = useLookAgain(slug);
  const own = draft.source.connection === undefined;
  const counts = useTableCounts(slug);
  const name = object ?? catalogue.tables[0]?.name;
  const table = name === undefined ? undefined : findTable(catalogue, name);
  const done = useCallback(
    (made: string) => {
      setMaking(null);
      void navigate(to('data', made));
    },
    [navigate, to],
  );
  const itemsOf = (source: string | null) =>
    catalogue.tables
      .filter((each) => sourceName(draft, each.name) === source)
      .map((each) => ({
        key: each.name,
        label: each.stored ?? each.name,
        aside: counts.data?.tables.find((count) => count.name === each.name)?.rows.toLocaleString(),
        to: to('data', each.name),
        current: !bringing && each.name === name,
      }));
  return (
    <StageFrame
      title="Tables"
      groups={[
        { title: `Tables of ${catalogue.schema}`, items: itemsOf(null) },
        ...Object.keys(draft.sources ?? {}).map((source) => ({
          title: `${source}: ${draft.sources![source]!.schema}`,
          items: itemsOf(source),
        })),
      ]}
      foot={
        <>
          <h2 className="px-4 pb-1 text-sm font-sans font-semibold text-soft">A new table</h2>
          <div className="flex flex-wrap gap-1.5 px-4">
            {(
              [
                ...(own
                  ? [
                      ['file', 'from a file'],
                      ['drawn', 'drawn'],
                      ['script', 'from SQL'],
                    ]
                  : []),
                ['query', 'from a query'],
              ] as [Making, string][]
            ).map(([what, words]) => (
              <Button
                key={what}
                small
                aria-expanded={making === what}
                onClick={() => setMaking(making === what ? null : what)}
              >
                + {words}
              </Button>
            ))}
          </div>
          <div className="grid justify-items-start gap-1.5 px-4 pt-4">
            <Button
              small
              aria-expanded={making === 'source'}
              onClick={() => setMaking(making === 'source' ? null : 'source')}
            >
              Sources
            </Button>
            <Button
              small
              disabled={look.isPending}
              onClick={() => {
                setMaking('look');
                look.mutate();
              }}
            >
              Look again
            </Button>
          </div>
          {own && <Deleted />}
        </>
      }
    >
      {state.away.map(({ name: source, reason }) => (
        <div key={source} className="p-4 pb-0">
          <Notice kind="warn">
            The tables of {source} can't be read at the moment, and nothing of them is shown: {reason}
          </Notice>
        </div>
      ))}
      {making === 'source' && <FurtherSources onClose={() => setMaking(null)} />}
      {making === 'file' && <FileToTable slug={slug} onCancel={() => setMaking(null)} onDone={done} />}
      {making === 'query' && (
        <SavedQueryEditor
          key={proposed?.name}
          known={null}
          first={proposed}
          onCancel={() => {
            setMaking(null);
            setAddress((address) => address.delete('one-row'));
          }}
          onDone={done}
        />
      )}
      {making === 'look' && <LookAgain look={look} onClose={() => setMaking(null)} />}
      {making === 'script' && <FromScript onCancel={() => setMaking(null)} onDone={done} />}
      {making === 'drawn' && <DrawTable onCancel={() => setMaking(null)} onDone={done} />}
      {!bringing && catalogue.tables.length === 0 && (
        <div className="p-4">
          <Notice kind="say">
            The schema {catalogue.schema} has no tables yet.{' '}
            {own
              ? 'Bring a file, or make some in the database; they appear here within half a minute.'
              : 'Make some in the database; they appear here within half a minute.'}
          </Notice>
        </div>
      )}
      {!bringing && catalogue.tables.length > 0 && !table && (
        <div className="p-4">
          <Notice kind="fault">There is no table {name}. Choose one on the left.</Notice>
        </div>
      )}
      {!bringing && table && (
        <TableView
          key={table.name}
          table={table}
          onGone={() => void navigate(to('data'))}
          onRenamed={(name) => void navigate(to('data', name))}
        />
      )}
    </StageFrame>
  );
}

const tabs = ['columns', 'rows', 'bring', 'ceiling'] as const;

function TableView({
  table,
  onGone,
  onRenamed,
}: {
  table: Table;
  onGone: () => void;
  onRenamed: (to: string) => void;
}) {
  const { draft } = useBench();
  const own = draft.source.connection === undefined && table.query === undefined && table.stored === undefined;
  const [params, setParams] = useSearchParams();
  const tab = tabs.find((each) => each === params.get('show')) ?? 'columns';
  const setTab = (next: (typeof tabs)[number]) => setParams(next === 'columns' ? {} : { show: next });
  return (
    <>
      <StageHead title={table.name}>
        <div role="group" aria-label="Show" className="flex gap-1">
          <Button
            small
            aria-pressed={tab === 'columns'}
            className={tab === 'columns' ? 'bg-sunk' : ''}
            onClick={() => setTab('columns')}
          >
            {counted(table.columns.length, 'column')}
          </Button>
          <Button
            small
            aria-pressed={tab === 'rows'}
            className={tab === 'rows' ? 'bg-sunk' : ''}
            onClick={() => setTab('rows')}
          >
            Rows
          </Button>
          {table.query === undefined && (
            <Button
              small
              aria-pressed={tab === 'bring'}
              className={tab === 'bring' ? 'bg-sunk' : ''}
              onClick={() => setTab('bring')}
            >
              Bring a file
            </Button>
          )}
          {table.query === undefined && (
            <Button
              small
              aria-pressed={tab === 'ceiling'}
              className={tab === 'ceiling' ? 'bg-sunk' : ''}
              onClick={() => setTab('ceiling')}
            >
              Ceiling
            </Button>
          )}
          {own && <ShapeTable table={table} onGone={onGone} onRenamed={onRenamed} />}
        </div>
      </StageHead>
      <TableKey table={table} />
      {tab === 'columns' && table.query !== undefined && table.stored === undefined && (
        <SavedQuery table={table} onGone={onGone} />
      )}
      {tab === 'columns' && table.stored === undefined && <IndexAdvice table={table.name} />}
      {tab === 'columns' && <Columns table={table} />}
      {tab === 'columns' && own && (
        <div className="p-4">
          <AddColumn table={table} />
        </div>
      )}
      {tab === 'rows' && <Rows table={table} />}
      {tab === 'ceiling' && <CeilingEditor table={table} />}
      {tab === 'bring' && <ImportIntoTable table={table} />}
    </>
  );
}

function Columns({ table }: { table: Table }) {
  const { slug, draft, edit } = useBench();
  const own = draft.source.connection === undefined && table.query === undefined && table.stored === undefined;
  const suggestions = useSuggestions(slug, table.name);
  const client = useQueryClient();
  const notes = (column: string) => draft.tables[table.name]?.columns?.[column] ?? {};
  const change = (column: string, part: { label?: string; dataClass?: DataClass | null }) =>
    void edit(`Describe ${table.name}.${column}`, (next) => {
      const columns = ((next.tables[table.name] ??= {}).columns ??= {});
      const note = { ...columns[column] };
      if ('label' in part) {
        if (part.label) note.label = part.label;
        else delete note.label;
      }
      if ('dataClass' in part) {
        if (part.dataClass) note.dataClass = part.dataClass;
        else delete note.dataClass;
      }
      columns[column] = note;
    });
  const open = (suggestions.data?.suggestions ?? []).filter((each) => !notes(each.column).dataClass);
  const declared = (column: string) => draft.tables[table.name]?.relations?.find((each) => each.column === column);
  const known = () => client.invalidateQueries({ queryKey: ['builder', slug, 'portal'] });
  const declare = async ({ name, column, table: to, targetColumn }: Relation) => {
    await edit(`Relate ${table.name}.${column} to ${to}`, (next) => {
      ((next.tables[table.name] ??= {}).relations ??= []).push({ name, column, table: to, targetColumn });
    });
    await known();
  };
  const undeclare = async (column: string) => {
    await edit(`Take the relation off ${table.name}.${column}`, (next) => {
      const notes = next.tables[table.name]!;
      notes.relations = notes.relations!.filter((each) => each.column !== column);
      if (notes.relations.length === 0) delete notes.relations;
    });
    await known();
  };
  const acceptAll = () =>
    void edit(
      `Give ${open.length === 1 ? 'a column' : `${open.length} columns`} of ${table.name} a data class`,
      (next) => {
        const columns = ((next.tables[table.name] ??= {}).columns ??= {});
        for (const each of open) columns[each.column] = { ...columns[each.column], dataClass: each.dataClass };
      },
    );
  return (
    <>
      {open.length > 0 && (
        <div className="p-4 pb-2">
          <Notice
            kind="warn"
            action={
              <Button small onClick={acceptAll}>
                Give {open.length === 1 ? 'it' : `all ${open.length}`} the data class
              </Button>
            }
          >
            {open.length === 1 ? 'One column looks' : `${open.length} columns look`} like personal data without a data
            class: {open.map((each) => each.column).join(', ')}.
          </Notice>
        </div>
      )}
      <div className="overflow-x-auto" tabIndex={0} role="region" aria-label={`Columns of ${table.name}`}>
        <table className="w-full text-left">
          <thead>
            <tr className="border-b border-line text-sm text-soft">
              {['Column', 'Type', 'Relation', 'Label for people', 'Data class'].map((head) => (
                <th key={head} scope="col" className="px-4 py-2 font-semibold">
                  {head}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {table.columns.map((column) => {
              const relation = table.relations.find((each) => each.column === column.name);
              return (
                <tr key={column.name} className="border-b border-line">
                  <td className="px-4 py-1.5 font-semibold whitespace-nowrap">
                    {column.name}{' '}
                    {table.key.includes(column.name) && (
                      <KeyRound size={13} aria-label="primary key" className="inline text-ochre" />
                    )}
                    {column.comment && (
                      <span className="block max-w-48 text-sm font-normal whitespace-normal text-soft">
                        {column.comment}
                      </span>
                    )}
                    <QueryColumn table={table} column={column} />
                    {own && (
                      <span className="block text-sm font-normal">
                        <ShapeColumn key={column.nativeType} table={table} column={column} />
                      </span>
                    )}
                  </td>
                  <td className="px-4 py-1.5">
                    <span>
                      {column.kind ?? (column.type === 'other' ? 'other: shown, not filtered or changed' : column.type)}
                      {column.currency ? `, ${column.currency}` : ''}
                      {column.nullable ? '' : ', required'}
                    </span>
                    {column.choices ? (
                      <span className="block text-sm text-soft">{column.choices.join(', ')}</span>
                    ) : (
                      <span className="block text-sm text-soft font-code">{column.nativeType}</span>
                    )}
                  </td>
                  <td className="px-4 py-1.5 text-sm">
                    {(relation ?? declared(column.name)) ? (
                      <>
                        {(relation ?? declared(column.name))!.name} → {(relation ?? declared(column.name))!.table}
                      </>
                    ) : (
                      <span className="text-soft">–</span>
                    )}
                    {declared(column.name) && (
                      <button
                        type="button"
                        className="block text-left text-water underline"
                        aria-label={`Take the relation off ${column.name}`}
                        onClick={() => void undeclare(column.name)}
                      >
                        take it off
                      </button>
                    )}
                    {!relation &&
                      !declared(column.name) &&
                      suggestions.data?.relations
                        .filter((each) => each.column === column.name)
                        .map((each) => (
                          <button
                            key={each.name}
                            type="button"
                            className="block text-left text-water underline"
                            onClick={() => void declare(each)}
                          >
                            relate to {each.table}: {each.found} of {each.of} values are found in {each.table}.
                            {each.targetColumn}
                          </button>
                        ))}
                    {!relation && !declared(column.name) && (
                      <RelateByHand table={table} column={column} onRelate={(each) => void declare(each)} />
                    )}
                  </td>
                  <td className="px-4 py-1.5">
                    <input
                      className="field"
                      aria-label={`Label of ${column.name}`}
                      key={notes(column.name).label ?? ''}
                      defaultValue={notes(column.name).label ?? ''}
                      placeholder="made of the name"
                      maxLength={120}
                      onBlur={(event) => {
                        if (event.target.value.trim() !== (notes(column.name).label ?? ''))
                          change(column.name, { label: event.target.value.trim() });
                      }}
                    />
                  </td>
                  <td className="px-4 py-1.5">
                    <select
                      className="field min-w-28"
                      aria-label={`Data class of ${column.name}`}
                      value={notes(column.name).dataClass ?? ''}
                      onChange={(event) =>
                        change(column.name, { dataClass: (event.target.value || null) as DataClass | null })
                      }
                    >
                      <option value="">none</option>
                      {dataClasses.map((each) => (
                        <option key={each}>{each}</option>
                      ))}
                    </select>
                    {open
                      .filter((each) => each.column === column.name)
                      .map((each) => (
                        <button
                          key={each.what}
                          type="button"
                          className="mt-1 block text-left text-sm text-water underline"
                          onClick={() => change(column.name, { dataClass: each.dataClass })}
                        >
                          {each.dataClass}: {each.found} of {each.of} are {each.what}
                        </button>
                      ))}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
    </>
  );
}

function Rows({ table }: { table: Table }) {
  const { slug } = useBench();
  const client = useQueryClient();
  const onChanged = useCallback(() => {
    void client.invalidateQueries({ queryKey: ['builder', slug, 'counts'] });
  }, [client, slug]);
  const [params, change] = useAddress();
  const kept = { sort: params.get('sort') ?? '', filter: params.get('filter') ?? '', search: params.get('find') ?? '' };
  const keep = ({ sort, filter, search }: KeptQuestion) =>
    change((address) => {
      for (const [name, value] of Object.entries({ show: 'rows', sort, filter, find: search })) {
        if (value === '') address.delete(name);
        else address.set(name, value);
      }
    });
  return (
    <Grid
      base={allRecords(slug)}
      table={table.name}
      kept={kept}
      onKept={keep}
      onChanged={onChanged}
      onExport={(question, format, guard) => (
        <ExportAction
          key={`${format} ${JSON.stringify(question)}`}
          slug={slug}
          table={table.name}
          question={question}
          format={format}
          guard={guard}
        />
      )}
    />
  );
}
