import { waysToOpen, type WayToOpen } from '../../../core/definition/section-kinds';
import { Field } from '../../ui/Field';
import { Select } from '../../ui/Select';

const words: Record<WayToOpen, string> = {
  under: 'under its line',
  over: 'over the page',
  page: 'alone, as a page',
};

/** Where a record of a section opens. */
export function OpensChoice<W extends WayToOpen>({
  ways,
  opens,
  onPick,
}: {
  /** Those that the section knows, beside it not counted. */
  ways: readonly W[];
  opens: W | undefined;
  onPick: (opens: W | undefined) => void;
}) {
  return (
    <Field label="A record opens">
      {(ids) => (
        <Select
          {...ids}
          className="w-52"
          value={opens ?? ''}
          onPick={(picked) => onPick(ways.find((each) => each === picked))}
        >
          <option value="">beside it, where there is room</option>
          {waysToOpen
            .filter((each) => (ways as readonly string[]).includes(each))
            .map((each) => (
              <option key={each} value={each}>
                {words[each]}
              </option>
            ))}
        </Select>
      )}
    </Field>
  );
}
