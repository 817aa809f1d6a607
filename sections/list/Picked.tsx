import { useState } from 'react';
import { useQueryClient } from '@tanstack/react-query';
import { mostInAJob } from '../../core/definition/action';
import { counted } from '../../core/text/counted';
import { problemText } from '../../web/client/http';
import { useDone } from '../../web/place/done';
import { useListState, usePlace } from '../../web/place/place';
import { matchingIds } from '../../web/client/matching-ids';
import { useActions } from '../../web/client/actions';
import { ActionButtons } from '../../web/records/ActionButtons';
import { removed } from '../../web/records/remove';
import { Button } from '../../web/ui/Button';
import { Question } from '../../web/ui/Question';
import type { Picks } from './Ticks';

/** So many can be deleted at once: each is a write of its own. */
const mostDeleted = 2000;

/** What can be done with the records that are ticked. */
export default function Picked({
  section,
  table,
  noun,
  total,
  picks,
  deletes,
}: {
  section: string;
  table: string;
  noun: string;
  /** How many records the list finds. */
  total: number;
  picks: Picks;
  deletes: boolean;
}) {
  const { base, spot, go, seenBy } = usePlace();
  const actions = useActions(base, table).filter(({ several }) => several);
  const { state } = useListState(section);
  const mostTicked = actions.length > 0 && !seenBy ? mostInAJob : mostDeleted;
  const reach = Math.min(total, mostTicked);
  const client = useQueryClient();
  const say = useDone();
  const [busy, setBusy] = useState(false);
  const ids = [...picks.ids];
  const tickAll = async () => {
    setBusy(true);
    try {
      picks.pick(new Set(await matchingIds(base, spot.page, section, state, mostTicked)));
    } catch (error) {
      say({ words: problemText(error), fault: true });
    } finally {
      setBusy(false);
    }
  };
  const remove = async () => {
    setBusy(true);
    try {
      const done = await removed(base, table, ids, () => client.invalidateQueries({ queryKey: [base] }));
      const { undo, refused } = done;
      // Only those that stay are still ticked.
      picks.pick(new Set(ids.filter((id) => !done.gone.includes(id))));
      if (spot.record && done.gone.includes(spot.record.id)) go({ ...spot, record: null }, { replace: true });
      const words =
        refused.length === 0
          ? `${counted(done.gone.length, 'record')} deleted.`
          : `${done.gone.length} of ${ids.length} deleted. ${refused[0]!}`;
      say({
        words,
        ...(refused.length > 0 ? { fault: true as const } : {}),
        ...(undo ? { undo: async () => say({ words: await undo() }) } : {}),
      });
    } catch (error) {
      say({ words: problemText(error), fault: true });
    } finally {
      setBusy(false);
    }
  };
  return (
    <div
      role="region"
      aria-label="Ticked records"
      className="flex flex-wrap items-center gap-2 rounded-stone border border-line bg-lichen-wash px-3 py-1.5"
    >
      <span className="font-semibold">{ids.length.toLocaleString()} ticked</span>
      {ids.length < reach && (
        <Button small disabled={busy} onClick={() => void tickAll()}>
          {total > mostTicked
            ? `Tick the first ${mostTicked.toLocaleString()}`
            : `Tick all ${total.toLocaleString()} that are found`}
        </Button>
      )}
      <ActionButtons
        small
        actions={actions}
        on={{ ids }}
        called={counted(ids.length, 'record')}
        onDone={(refused) => seenBy || picks.pick(new Set(refused))}
      />
      {deletes && !seenBy && ids.length <= mostDeleted && (
        <Question
          trigger={
            <Button small weight="danger" disabled={busy}>
              {busy ? 'Working …' : `Delete ${ids.length.toLocaleString()}`}
            </Button>
          }
          title={`Delete ${ids.length.toLocaleString()} of ${noun}?`}
          says="They go for everyone. Those that other records belong to stay, and you are told."
          keep="Keep them"
          go={`Delete ${ids.length.toLocaleString()}`}
          onGo={() => void remove()}
        />
      )}
      <Button small weight="quiet" disabled={busy} onClick={() => picks.pick(new Set())}>
        Tick none
      </Button>
    </div>
  );
}
