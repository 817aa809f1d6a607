import { benchFiles } from '../../client/files';
import { useState } from 'react';
import { useMutation } from '@tanstack/react-query';
import { Link } from 'react-router';
import { counted } from '../../../core/text/counted';
import { memberStates } from '../../../core/people/member-state';
import { bench } from '../../client/bench';
import { useMembers, type FoundMember } from '../../client/builder';
import { problemText } from '../../client/http';
import { useLastRefresh, useRefresh } from '../../client/refresh';
import { Button } from '../../ui/Button';
import { DataTable, Unseen } from '../../ui/DataTable';
import { hint } from '../../ui/hint';
import { Notice, Skeleton } from '../../ui/Notice';
import { Select } from '../../ui/Select';
import { useAddress } from '../bench/address';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';
import { rolesText } from '../bench/PersonChooser';
import { StageHead } from '../bench/StageFrame';
import { JobProgress } from '../../jobs/JobProgress';
import { dayText, minuteText, stateWords } from '../../records/member-words';
import { RefreshOutcomeView } from './Refresh';
import { SendMails } from './SendMails';

const pageSize = 50;

/** Everyone on any roster, with a way to bring the list in line with them. */
export function Members() {
  const { slug } = useBench();
  const refresh = useRefresh(slug);
  const last = useLastRefresh(slug);
  return (
    <>
      <StageHead title="Members">
        {last.data?.at && <span className="text-sm text-soft">as of {minuteText(last.data.at)}</span>}
        <Button small weight="main" disabled={refresh.isBusy} onClick={refresh.begin}>
          {refresh.isBusy ? 'Refreshing …' : 'Refresh from the rosters'}
        </Button>
      </StageHead>
      <div className="grid gap-3 p-4 pb-0 empty:hidden">
        {refresh.job !== null && refresh.isBusy && (
          <JobProgress ways={benchFiles(slug)} job={refresh.job} doing="Refreshing the members" />
        )}
        {refresh.outcome && <RefreshOutcomeView outcome={refresh.outcome} />}
        {refresh.problem && <Notice kind="fault">{problemText(refresh.problem)}</Notice>}
      </div>
      <MemberList roster={null} />
    </>
  );
}

/** Members with what they are found by: of one roster, or of all. */
export function MemberList({ roster }: { roster: string | null }) {
  const { slug, draft } = useBench();
  const [params, change] = useAddress();
  const search = params.get('find') ?? '';
  const state = memberStates.find((each) => each === params.get('state')) ?? null;
  const role = params.get('role');
  const offset = Math.max(0, Math.trunc(Number(params.get('from'))) || 0);
  const members = useMembers(slug, { search, roster, state, role }, offset, pageSize);
  const set = (name: string, value: string) =>
    change((next) => {
      next.delete('from');
      if (value) next.set(name, value);
      else next.delete(name);
    });
  const [chosen, setChosen] = useState<number[]>([]);
  const [again, setAgain] = useState(false);
  const choosing = useMutation({
    mutationFn: () => bench(slug)('GET /member-numbers', { query: { search, roster, state, role } }),
    onSuccess: (found) => setChosen(found.members),
  });
  const isNarrowed = search !== '' || state !== null || role !== null;
  return (
    <div className="grid gap-3 p-4">
      <div className="flex flex-wrap items-center gap-2">
        <input
          data-find
          type="search"
          className="field min-w-40 max-w-80 flex-1"
          aria-label="Find a member"
          placeholder="Find by name or e-mail"
          value={search}
          onChange={(event) => set('find', event.target.value)}
        />
        <Select className="w-36" aria-label="State" value={state ?? ''} onPick={(picked) => set('state', picked)}>
          <option value="">all but gone</option>
          {memberStates.map((each) => (
            <option key={each} value={each}>
              {stateWords[each].label}
            </option>
          ))}
        </Select>
        <Select className="w-44" aria-label="Role" value={role ?? ''} onPick={(picked) => set('role', picked)}>
          <option value="">every role</option>
          {draft.roles
            .filter((each) => (each.for ?? 'members') === 'members')
            .map((each) => (
              <option key={each.id} value={each.id}>
                {each.name}
              </option>
            ))}
        </Select>
      </div>
      {members.isPending && <Skeleton lines={6} />}
      {members.isError && <Notice kind="fault">{problemText(members.error)}</Notice>}
      {members.data?.total === 0 && (
        <Notice kind="say">
          {isNarrowed ? 'Nobody is like that.' : 'There are no members yet. Set a roster and refresh.'}
        </Notice>
      )}
      {members.data && members.data.total > 0 && (
        <>
          {choosing.isError && <Notice kind="fault">{problemText(choosing.error)}</Notice>}
          {chosen.length === 0 && (
            <div>
              <Button small weight="quiet" disabled={choosing.isPending} onClick={() => choosing.mutate()}>
                Choose all {members.data.isMore ? 'of them' : members.data.total.toLocaleString()}
              </Button>
            </div>
          )}
          {chosen.length > 0 && (
            <SendMails small order={{ kind: 'invitation', members: chosen, afterDays: 0, again }} word="invitation">
              <span className="flex-1">
                {counted(chosen.length, 'member')} chosen{' '}
                <Button small weight="quiet" onClick={() => setChosen([])}>
                  Choose none
                </Button>
                <label className="inline-flex items-center gap-2 px-2">
                  <input type="checkbox" checked={again} onChange={(event) => setAgain(event.target.checked)} />
                  also to those who were invited already
                </label>
              </span>
            </SendMails>
          )}
          <DataTable
            label="Members"
            head={[
              <Unseen key="choose">Chosen</Unseen>,
              'Name',
              'State',
              'Roles',
              'Last in',
              <Unseen key="do">Actions</Unseen>,
            ]}
          >
            {members.data.members.map((member) => (
              <MemberRow
                key={member.id}
                member={member}
                isChosen={chosen.includes(member.id)}
                onChoose={(isChosen) =>
                  setChosen((before) => [...before.filter((id) => id !== member.id), ...(isChosen ? [member.id] : [])])
                }
              />
            ))}
          </DataTable>
          <Paging
            from={offset}
            shown={members.data.members.length}
            total={members.data.total}
            isMore={members.data.isMore}
            onFrom={(from) =>
              change((next) => {
                if (from > 0) next.set('from', String(from));
                else next.delete('from');
              })
            }
          />
        </>
      )}
    </div>
  );
}

function Paging({
  from,
  shown,
  total,
  isMore,
  onFrom,
}: {
  from: number;
  shown: number;
  total: number;
  isMore: boolean;
  onFrom: (from: number) => void;
}) {
  return (
    <div className="flex items-center gap-2 text-sm text-soft">
      {(from + 1).toLocaleString()} to {(from + shown).toLocaleString()} of {isMore && 'more than '}
      {total.toLocaleString()}
      <span className="ml-auto flex gap-2">
        <Button small disabled={from === 0} onClick={() => onFrom(Math.max(0, from - pageSize))}>
          Back
        </Button>
        <Button
          small
          disabled={isMore ? shown < pageSize : from + pageSize >= total}
          onClick={() => onFrom(from + pageSize)}
        >
          Further
        </Button>
      </span>
    </div>
  );
}

function MemberRow({
  member,
  isChosen,
  onChoose,
}: {
  member: FoundMember;
  isChosen: boolean;
  onChoose: (isChosen: boolean) => void;
}) {
  const { draft, to, setPerson } = useBench();
  const names = useNames();
  return (
    <tr className="border-b border-line align-top">
      <td className="py-2 pr-2">
        <input
          type="checkbox"
          aria-label={`Choose ${member.name}`}
          checked={isChosen}
          onChange={(event) => onChoose(event.target.checked)}
        />
      </td>
      <td className="py-1.5 pr-3">
        <Link to={to('people', `~member-${member.id}`)} className="font-semibold">
          {member.name || member.email}
        </Link>
        <div className="text-sm break-all text-soft">{member.email}</div>
      </td>
      <td className="py-1.5 pr-3 whitespace-nowrap" {...hint(stateWords[member.state].means)}>
        {stateWords[member.state].label}
      </td>
      <td className="py-1.5 pr-3">
        {rolesText(member, draft)}
        {member.organisation !== null && (
          <div className="text-sm text-soft">
            {names.tableInText(member.rosters[0] ?? '')} · {member.organisation}
          </div>
        )}
      </td>
      <td className="py-1.5 pr-3 whitespace-nowrap">{dayText(member.lastIn)}</td>
      <td className="py-1 text-right whitespace-nowrap">
        {member.state !== 'gone' && (
          <Button small weight="quiet" onClick={() => setPerson({ id: member.id, name: member.name })}>
            See as<span className="sr-only"> {member.name}</span>
          </Button>
        )}
      </td>
    </tr>
  );
}
