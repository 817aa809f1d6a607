import { Field } from '../../ui/Field';

/** Domains of e-mail addresses, typed with commas between. */
export function DomainsField({
  label,
  domains = [],
  onChange,
}: {
  label: string;
  domains?: string[];
  onChange: (domains: string[]) => void;
}) {
  return (
    <Field label={label} hint="Domains, with commas between: example.org, lab.example.org">
      {(ids) => (
        <input
          className="field"
          {...ids}
          key={domains.join()}
          defaultValue={domains.join(', ')}
          onBlur={(event) => {
            const typed = event.target.value.split(/[\s,;]+/).filter((each) => each !== '');
            if (typed.join() !== domains.join()) onChange(typed);
          }}
        />
      )}
    </Field>
  );
}
