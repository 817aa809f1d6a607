import { csvFormat } from 'd3-dsv';
import { counted } from '../../../core/text/counted';
import { useChangeReport, type ChangeReport as Report } from '../../client/change-report';
import { benchFiles } from '../../client/files';
import { problemText } from '../../client/http';
import { saveText } from '../../client/save-text';
import { JobProgress } from '../../jobs/JobProgress';
import { Button } from '../../ui/Button';
import { DataTable, Unseen } from '../../ui/DataTable';
import { Notice } from '../../ui/Notice';
import { useAddress } from '../bench/address';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';
import { Who } from '../bench/Who';
import { partWords } from '../definition/part-words';
import { reportLines, type ReportLine } from './report-lines';

/** What publishing changes, or one version in place of another: for whom, before anybody gets it. */
export function ChangeReport() {
  const { slug, state } = useBench();
  const [params, setAddress] = useAddress();
  const job = Number(params.get('report')) || null;
  const { begin, isRunning, told, problem } = useChangeReport(slug, job);
  if (state.publishedVersion === null) return null;
  const start = () =>
    begin.mutate(
      { from: null, to: null },
      { onSuccess: ({ id }) => setAddress((address) => address.set('report', String(id))) },
    );
  return (
    <section aria-label="What changes" className="grid gap-3">
      <div className="flex flex-wrap items-center gap-3">
        <h2 className="font-semibold">What changes, and for whom</h2>
        <Button small disabled={isRunning || begin.isPending} onClick={start}>
          {told && told.to === null ? 'Look again' : 'Look what the draft changes'}
        </Button>
      </div>
      {begin.isError && <Notice kind="fault">{problemText(begin.error)}</Notice>}
      {problem && <Notice kind="fault">{problemText(problem)}</Notice>}
      {isRunning && job !== null && (
        <JobProgress ways={benchFiles(slug)} job={job} doing="Comparing, person by person" of="table" />
      )}
      {told && <Told report={told} />}
    </section>
  );
}

const called = (number: number | null): string => (number === null ? 'the draft' : `version ${number}`);

function Told({ report }: { report: Report }) {
  const { slug } = useBench();
  const names = useNames();
  const lines = reportLines(report, names);
  const title = `${called(report.to)} in place of ${called(report.from)}`;
  const save = () =>
    saveText(
      `changes-${slug}.csv`,
      'text/csv',
      csvFormat([
        ...report.parts.map((part) => ({ who: '', what: partWords(part), people: '', names: '' })),
        ...lines.map(({ who, what, people }) => ({
          who,
          what,
          people: String(people.length),
          names: people.map(({ name }) => name).join('; '),
        })),
      ]),
    );
  return (
    <div className="grid gap-3">
      <p className="flex flex-wrap items-center gap-2 text-soft">
        <span>
          {title.charAt(0).toUpperCase() + title.slice(1)}, for {counted(report.people, 'person', 'people')}, with the
          records as they are now.
        </span>
        <Button small weight="quiet" onClick={save}>
          As CSV
        </Button>
        <Button small weight="quiet" onClick={() => window.print()}>
          Print
        </Button>
      </p>
      {lines.length === 0 ? (
        <Notice kind="say">Nobody gets another page, record or cell, and nobody may do more or less.</Notice>
      ) : (
        <Lines lines={lines} />
      )}
      {report.parts.length > 0 && (
        <details open={lines.length === 0}>
          <summary className="min-h-6 cursor-pointer">
            {counted(report.parts.length, 'part')} of the portal {report.parts.length === 1 ? 'is' : 'are'} other
          </summary>
          <ul className="list-disc pl-6">
            {report.parts.map((part) => (
              <li key={`${part.kind} ${part.id}`}>{partWords(part)}</li>
            ))}
          </ul>
        </details>
      )}
    </div>
  );
}

function Lines({ lines }: { lines: ReportLine[] }) {
  return (
    <DataTable
      label="What changes for people"
      head={[<Unseen key="more">More or less</Unseen>, 'Who', 'What', 'People']}
      small
    >
      {lines.map(({ more, who, what, people }) => (
        <tr key={`${who} ${what}`}>
          <td className={`font-semibold whitespace-nowrap ${more ? 'text-lichen-ink' : 'text-iron'}`}>
            {more ? '+ more' : '− less'}
          </td>
          <td>{who}</td>
          <td>{what}</td>
          <td>
            <Who people={{ count: people.length, first: people.slice(0, 200) }} none="none" />
          </td>
        </tr>
      ))}
    </DataTable>
  );
}
