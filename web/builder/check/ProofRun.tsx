import { useState } from 'react';
import { counted } from '../../../core/text/counted';
import { useProofRun, type ProofTold } from '../../client/proof';
import { benchFiles } from '../../client/files';
import { problemText } from '../../client/http';
import { JobProgress } from '../../jobs/JobProgress';
import { minuteText } from '../../records/member-words';
import { Button } from '../../ui/Button';
import { DataTable, Unseen } from '../../ui/DataTable';
import { Notice } from '../../ui/Notice';
import { Select } from '../../ui/Select';
import { useAddress } from '../bench/address';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';
import { StageHead } from '../bench/StageFrame';

const kindWords: Record<keyof ProofTold['questions'], string> = {
  list: 'pages of lists',
  filter: 'filtered lists',
  record: 'single records',
  file: 'files taken out',
  write: 'writes, taken back',
};

/** The builder's certificate: random questions as everybody, each answer held against what the rules say in memory. */
export default function ProofRun() {
  const { slug, state } = useBench();
  const [params, setAddress] = useAddress();
  const [writes, setWrites] = useState(false);
  const [questions, setQuestions] = useState(10_000);
  const job = Number(params.get('proof')) || null;
  const { begin, isRunning, told, problem, kept } = useProofRun(slug, job);
  const start = (of: 'draft' | 'live') =>
    begin.mutate(
      { of, writes, questions },
      { onSuccess: ({ id }) => setAddress((address) => address.set('proof', String(id))) },
    );
  const isBusy = isRunning || begin.isPending;
  return (
    <>
      <StageHead title="Proof run">
        {state.publishedVersion !== null && (
          <Button small disabled={isBusy} onClick={() => start('live')}>
            Prove version {state.publishedVersion}
          </Button>
        )}
        <Button small weight="main" disabled={isBusy} onClick={() => start('draft')}>
          Prove the draft
        </Button>
      </StageHead>
      <div className="grid gap-4 p-4">
        <p className="max-w-160 text-soft">
          Asks random questions as your people, with the records as they are now, and works out each answer a second
          time: from the rules, in memory, without the database. The two are held against each other, cell by cell.
          Nothing is changed.
        </p>
        <label className="flex items-center gap-2">
          About how many questions
          <Select value={questions} onPick={(picked) => setQuestions(Number(picked))} className="w-28">
            {[2_000, 10_000, 50_000].map((each) => (
              <option key={each} value={each}>
                {each.toLocaleString()}
              </option>
            ))}
          </Select>
        </label>
        <label className="inline-flex min-h-6 items-center gap-2">
          <input type="checkbox" checked={writes} onChange={(event) => setWrites(event.target.checked)} /> Also try
          changes and deletions, each taken back at once; its record is locked for that moment
        </label>
        {begin.isError && <Notice kind="fault">{problemText(begin.error)}</Notice>}
        {problem && <Notice kind="fault">{problemText(problem)}</Notice>}
        {isRunning && job !== null && <JobProgress ways={benchFiles(slug)} job={job} doing="Asking" of="question" />}
        {told && <Outcome told={told} />}
        {kept.length > 0 && <KeptRuns runs={kept} />}
      </div>
    </>
  );
}

function Outcome({ told }: { told: ProofTold }) {
  const names = useNames();
  const words =
    `${counted(askedIn(told), 'question')} as ${told.people.toLocaleString()} people and programs, ` +
    `${counted(told.cells, 'cell')}, in ${Math.round(told.seconds)} s.`;
  return (
    <section aria-label="What came of it" className="grid gap-3">
      {told.differed === 0 ? (
        <Notice kind="say">
          {words} <strong>Every answer is what the rules say.</strong>
        </Notice>
      ) : (
        <Notice kind="fault">
          {words} <strong>{counted(told.differed, 'answer')} are not what the rules say.</strong> Don’t publish this;
          tell the people who run Stone Porch: seed {told.seed}, {(told.wanted ?? 10_000).toLocaleString()} questions.
        </Notice>
      )}
      <ul className="flex flex-wrap gap-x-5 gap-y-1 text-sm">
        {(Object.keys(kindWords) as (keyof typeof kindWords)[]).map((kind) => (
          <li key={kind}>
            <strong>{told.questions[kind].toLocaleString()}</strong> {kindWords[kind]}
          </li>
        ))}
        {told.unjudged > 0 && (
          <li>
            <strong>{told.unjudged.toLocaleString()}</strong> not judged: refused for what would come of them, or beyond
            what memory holds
          </li>
        )}
      </ul>
      {told.tooLarge.length > 0 && (
        <Notice kind="warn">
          Not asked of {told.tooLarge.map((table) => names.tableInText(table)).join(', ')}: more than 100,000 records,
          or too many with those of the others.
        </Notice>
      )}
      {told.elsewhere.length > 0 && (
        <Notice kind="warn">Not asked of tables in further sources: {told.elsewhere.join(', ')}.</Notice>
      )}
      {told.differences.length > 0 && (
        <DataTable label="Where answers differ" head={['As', 'Table', 'Record', 'Column', 'What']} small>
          {told.differences.map(({ person, table, id, path, says }, i) => (
            <tr key={i}>
              <td>{person === null ? 'a visitor or a program' : (told.names[person] ?? `member ${person}`)}</td>
              <td>{names.table(table)}</td>
              <td>{id ?? '–'}</td>
              <td>{path === null ? '–' : names.path(table, path)}</td>
              <td>{says}</td>
            </tr>
          ))}
        </DataTable>
      )}
    </section>
  );
}

function KeptRuns({ runs }: { runs: ReturnType<typeof useProofRun>['kept'] }) {
  const [open, setOpen] = useState<number | null>(null);
  const opened = runs.find(({ id }) => id === open);
  const head = ['Of', 'When', 'By', 'Questions', 'Cells', 'Not as the rules say', <Unseen key="do">Open</Unseen>];
  return (
    <section className="grid gap-2">
      <h2 className="font-semibold">Kept</h2>
      <DataTable label="Proof runs" head={head} small>
        {runs.map(({ id, version, revision, madeAt, madeBy, told }) => {
          const of = version === null ? `the draft, change ${revision}` : `version ${version}`;
          return (
            <tr key={id}>
              <td>{of}</td>
              <td>{minuteText(madeAt)}</td>
              <td>{madeBy || '–'}</td>
              <td className="tabular-nums">{askedIn(told).toLocaleString()}</td>
              <td className="tabular-nums">{told.cells.toLocaleString()}</td>
              <td className="tabular-nums">{told.differed === 0 ? 'none' : told.differed.toLocaleString()}</td>
              <td>
                <Button
                  small
                  weight="quiet"
                  aria-expanded={open === id}
                  onClick={() => setOpen(open === id ? null : id)}
                >
                  {open === id ? 'Close' : 'Open'}
                  <span className="sr-only"> what came of {of}</span>
                </Button>
              </td>
            </tr>
          );
        })}
      </DataTable>
      {opened && <Outcome told={{ ...opened.told, names: {} }} />}
    </section>
  );
}

const askedIn = ({ questions }: Pick<ProofTold, 'questions'>): number =>
  Object.values(questions).reduce((sum, each) => sum + each, 0);
