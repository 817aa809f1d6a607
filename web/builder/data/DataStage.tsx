import { counted } from '../../../core/text/counted';
import { useCallback, useState } from 'react';
import { useLocation, useNavigate, useSearchParams } from 'react-router';
import { oneRowAPerson } from '../../../core/check/one-row';
import { sourceName } from '../../../core/definition/sources';
import { findTable, type Table } from '../../../core/table/catalogue';
import { useTableCounts } from '../../client/builder';
import { useLookAgain } from '../../client/sources';
import { LookAgain } from './LookAgain';
import { Button } from '../../ui/Button';
import { Notice } from '../../ui/Notice';
import { useAddress } from '../bench/address';
import { useBench } from '../bench/bench-context';
import { StageFrame, StageHead } from '../bench/StageFrame';
import { Deleted, IndexAdvice } from './Deleted';
import { DrawTable } from './DrawTable';
import { AddColumn, ShapeTable } from './ShapeColumn';
import { FileToTable } from './FileToTable';
import { CeilingEditor } from './CeilingEditor';
import { SavedQuery, SavedQueryEditor } from './SavedQueryEditor';
import { FromScript } from './FromScript';
import { FurtherSources } from './FurtherSources';
import { ImportIntoTable } from './ImportIntoTable';
import { TableHistory } from './TableHistory';
import { TableKey } from './TableKey';
import { Rows } from './TableRows';
import { Columns } from './TableColumns';

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

const tabs = ['columns', 'rows', 'bring', 'ceiling', 'history'] as const;

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
          {table.query === undefined && (
            <Button
              small
              aria-pressed={tab === 'history'}
              className={tab === 'history' ? 'bg-sunk' : ''}
              onClick={() => setTab('history')}
            >
              History
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
      {tab === 'history' && <TableHistory table={table} />}
      {tab === 'bring' && <ImportIntoTable table={table} />}
    </>
  );
}
