import { Link } from 'react-router';
import { counted } from '../../../core/text/counted';
import { useRehearsal, type NamedPeople, type RehearsedPage } from '../../client/rehearsal';
import { problemText } from '../../client/http';
import { JobProgress } from '../../jobs/JobProgress';
import { benchFiles } from '../../client/files';
import { Button } from '../../ui/Button';
import { DataTable } from '../../ui/DataTable';
import { Notice } from '../../ui/Notice';
import { Who } from '../bench/Who';
import { useAddress } from '../bench/address';
import { useBench } from '../bench/bench-context';
import { StageHead } from '../bench/StageFrame';

/** Before anybody is invited: what everybody would find, page by page, as numbers with names. */
export default function Rehearsal() {
  const { slug } = useBench();
  const [params, setAddress] = useAddress();
  const job = Number(params.get('rehearsal')) || null;
  const rehearsal = useRehearsal(slug, job);
  const begin = () =>
    rehearsal.begin.mutate(undefined, {
      onSuccess: ({ id }) => setAddress((address) => address.set('rehearsal', String(id))),
    });
  const { told, isRunning, problem } = rehearsal;
  return (
    <>
      <StageHead title="Rehearsal">
        <Button small weight="main" disabled={isRunning || rehearsal.begin.isPending} onClick={begin}>
          {told ? 'Rehearse again' : 'Rehearse'}
        </Button>
      </StageHead>
      <div className="grid gap-4 p-4">
        <p className="max-w-160 text-soft">
          Opens every page of the draft as everybody who would get it, with the records as they are now, before anyone
          is invited. Nothing is sent, and nothing is changed.
        </p>
        {rehearsal.begin.isError && <Notice kind="fault">{problemText(rehearsal.begin.error)}</Notice>}
        {problem && <Notice kind="fault">{problemText(problem)}</Notice>}
        {isRunning && job !== null && (
          <JobProgress ways={benchFiles(slug)} job={job} doing="Opening the pages" of="person" ofMany="people" />
        )}
        {told && (
          <>
            <Summary people={told.people} without={told.without} onlyEmpty={told.onlyEmpty} />
            <Pages pages={told.pages} />
          </>
        )}
      </div>
    </>
  );
}

function Summary({ people, without, onlyEmpty }: { people: number; without: NamedPeople; onlyEmpty: NamedPeople }) {
  if (without.count + onlyEmpty.count === 0)
    return (
      <Notice kind="say">Each of {counted(people, 'person', 'people')} gets a page, and finds something on one.</Notice>
    );
  return (
    <Notice kind="warn">
      Of {counted(people, 'person', 'people')}, <Who people={without} none="none" /> would get no page at all, and{' '}
      <Who people={onlyEmpty} none="none" /> nothing but empty ones.
    </Notice>
  );
}

function Pages({ pages }: { pages: RehearsedPage[] }) {
  const { to } = useBench();
  return (
    <DataTable label="What people would find" head={['Page', 'Get it', 'Find it empty', 'Can’t open it']} small>
      {pages.map((page) => (
        <tr key={page.id}>
          <th scope="row" className="text-left font-semibold">
            <Link to={to('pages', page.id)}>{page.title}</Link>
          </th>
          <td>
            <Who people={page.gets} none="nobody" />
          </td>
          <td>
            <Who people={page.empty} none="–" />
          </td>
          <td>
            <Who people={page.stuck} none="–" />
            {page.stuck.why !== null && <p className="text-sm text-iron">{page.stuck.why}</p>}
          </td>
        </tr>
      ))}
    </DataTable>
  );
}
