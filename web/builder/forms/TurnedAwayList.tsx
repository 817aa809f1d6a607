import { useTurnedAway } from '../../client/builder';
import { minuteText } from '../../records/member-words';
import { useBench } from '../bench/bench-context';

/** What was turned away at a form, as long as something was. */
export function TurnedAwayList({ form }: { form: string }) {
  const { slug } = useBench();
  const { data } = useTurnedAway(slug, form);
  if (!data || data.turnedAway.length === 0) return null;
  return (
    <section aria-label="Turned away" className="grid gap-1">
      <h3 className="text-sm font-semibold">Turned away in the last 90 days</h3>
      <ul className="text-sm">
        {data.turnedAway.map(({ why, times, last }) => (
          <li key={why}>
            {times.toLocaleString()} × {why}, last {minuteText(last)}
          </li>
        ))}
      </ul>
      <p className="text-sm text-soft">Nothing is known of who they were.</p>
    </section>
  );
}
