import { useActions } from '../../web/client/actions';
import type { ListAnswer } from '../../web/client/portal';
import { usePlace } from '../../web/place/place';
import type { ShowProps } from '../show';

/** The records that are ticked. */
export interface Picks {
  ids: ReadonlySet<string>;
  pick(ids: ReadonlySet<string>): void;
}

/** Whether the record at a place can be ticked: where something can be done with several of which it is one. */
export function useTickable(
  { table, may }: ShowProps<'list'>['section'],
  { acts }: ListAnswer,
): (place: number) => boolean {
  const { base, seenBy } = usePlace();
  const actions = useActions(base, table);
  const several = new Set(actions.flatMap((action) => (action.several ? [action.id] : [])));
  return (place) => (may.includes('delete') && !seenBy) || acts?.[place]?.some((id) => several.has(id)) === true;
}

export function PickOne({
  picks,
  id,
  called,
  isLarge = false,
}: {
  picks: Picks;
  id: string | null;
  called: string;
  /** For a finger. */
  isLarge?: boolean;
}) {
  if (id === null) return null;
  return (
    <input
      type="checkbox"
      className={isLarge ? 'size-[24px]' : 'size-4.5'}
      aria-label={`Choose ${called}`}
      checked={picks.ids.has(id)}
      onChange={(event) => {
        const next = new Set(picks.ids);
        if (event.target.checked) next.add(id);
        else next.delete(id);
        picks.pick(next);
      }}
    />
  );
}

export function PickAll({ picks, ids }: { picks: Picks; ids: string[] }) {
  const all = ids.length > 0 && ids.every((id) => picks.ids.has(id));
  return (
    <input
      type="checkbox"
      className="size-4.5"
      aria-label="Choose all on this page"
      checked={all}
      ref={(box) => {
        if (box) box.indeterminate = !all && picks.ids.size > 0;
      }}
      onChange={() => picks.pick(new Set(all ? [] : [...picks.ids, ...ids]))}
    />
  );
}
