import { Link } from 'react-router';
import { problemText } from '../../client/http';
import { useCalls } from '../../client/calls';
import { minuteText } from '../../records/member-words';
import { DataTable } from '../../ui/DataTable';
import { Notice, Skeleton } from '../../ui/Notice';
import { Select } from '../../ui/Select';
import { useAddress } from '../bench/address';
import { useBench } from '../bench/bench-context';
import { NewestOlder } from '../bench/NewestOlder';
import { useNames } from '../bench/names';
import { callStates, callStateWords } from './call-words';

/** Every call of the portal, the newest first, with what became of it. */
export function CallList() {
  const { slug, to, draft } = useBench();
  const names = useNames();
  const [params, change] = useAddress();
  const state = callStates.find((each) => each === params.get('state')) ?? null;
  const before = Number(params.get('before')) || null;
  const found = useCalls(slug, { state, before });
  const addressName = (id: string) => draft.addresses?.find((each) => each.id === id)?.name ?? id;
  return (
    <section aria-label="What was told" className="grid gap-2">
      <div className="flex flex-wrap items-center gap-2">
        <h2 className="flex-1 text-base font-semibold">What was told</h2>
        <Select
          className="w-44"
          aria-label="State"
          value={state ?? ''}
          onPick={(picked) =>
            change((next) => {
              next.delete('before');
              if (picked) next.set('state', picked);
              else next.delete('state');
            })
          }
        >
          <option value="">every state</option>
          {callStates.map((each) => (
            <option key={each} value={each}>
              {callStateWords[each]}
              {found.data?.counts[each] ? ` (${Number(found.data.counts[each]).toLocaleString()})` : ''}
            </option>
          ))}
        </Select>
      </div>
      {found.isPending && <Skeleton />}
      {found.isError && <Notice kind="fault">{problemText(found.error)}</Notice>}
      {found.data?.calls.length === 0 && (
        <Notice kind="say">{state ? 'No call is like that.' : 'Nothing was told outside yet.'}</Notice>
      )}
      {found.data && found.data.calls.length > 0 && (
        <DataTable label="Calls" head={['By', 'To', 'State', 'When']}>
          {found.data.calls.map((call) => (
            <tr key={call.id} className="border-b border-line align-top">
              <td className="py-1.5 pr-3">
                <Link to={to('pages', '!calls', { call: String(call.id) })}>{names.action(call.action)}</Link>
                <div className="text-sm text-soft">
                  {names.table(call.table)} {call.record !== null && decodeURIComponent(call.record)}
                </div>
              </td>
              <td className="py-1.5 pr-3">{addressName(call.address)}</td>
              <td className="py-1.5 pr-3">
                {callStateWords[call.state]}
                {call.problem && <div className="text-sm text-iron">{call.problem}</div>}
              </td>
              <td className="py-1.5 pr-3 whitespace-nowrap">{minuteText(call.doneAt ?? call.madeAt)}</td>
            </tr>
          ))}
        </DataTable>
      )}
      <NewestOlder before={before} older={found.data?.before} change={change} />
    </section>
  );
}
