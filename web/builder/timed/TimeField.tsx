import { Field } from '../../ui/Field';
import { useBench } from '../bench/bench-context';

/** A time of day by the portal's clock. */
export function TimeField({
  label,
  value,
  onChange,
}: {
  label: string;
  value: string;
  onChange: (at: string) => void;
}) {
  const { draft } = useBench();
  return (
    <Field label={label} hint={`By the clock of ${draft.portal.timeZone}.`}>
      {(ids) => (
        <input
          className="field w-36"
          type="time"
          {...ids}
          key={value}
          defaultValue={value}
          onBlur={(event) => {
            const typed = event.target.value.slice(0, 5);
            if (typed && typed !== value) onChange(typed);
            else event.target.value = value;
          }}
        />
      )}
    </Field>
  );
}
