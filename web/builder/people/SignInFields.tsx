import {
  signInMethods,
  signInProblem,
  type KnownSignInRules,
  type SignInMethod,
  type SignInRules,
} from '../../../core/sign-in/sign-in-rules';
import { Field } from '../../ui/Field';

const told: Record<SignInMethod, { label: string; says: string }> = {
  password: {
    label: 'Password',
    says: 'Chosen by an invitation or by “forgotten”: 15 characters at least, and none that is tried first.',
  },
  code: {
    label: 'Code by e-mail',
    says: 'Six digits that work once, for ten minutes, and stand five tries. As safe as the mail box it goes to.',
  },
  'single sign-on': {
    label: 'Single sign-on',
    says: 'An identity provider (OpenID Connect) says who somebody is; its word counts for verified addresses alone.',
  },
  passkey: {
    label: 'Passkey',
    says: 'Added by people themselves once they are in; opened by their device, and as good as two proofs.',
  },
};

/** Changes rules of signing in; `label` says what is done. */
export type SetRules = (label: string, change: (rules: SignInRules) => void) => void;

/** In one order, whichever was opened last: the first is what a door shows first. */
const toggled = (methods: readonly SignInMethod[], method: SignInMethod): SignInMethod[] =>
  signInMethods.filter((each) => (each === method) !== methods.includes(each));

/** The ways in that are open. One that can't be is off, with the reason. */
export function MethodFields({ who, rules, set }: { who: string; rules: KnownSignInRules; set: SetRules }) {
  const problem = (method: SignInMethod): string | null => {
    const next = toggled(rules.methods, method);
    return next.length === 0 ? 'there must be a way in' : signInProblem({ ...rules, methods: next });
  };
  return (
    <fieldset className="grid gap-2">
      <legend className="mb-1 font-semibold">{who} prove who they are by</legend>
      {signInMethods.map((method) => {
        const { label, says } = told[method];
        const isOpen = rules.methods.includes(method);
        return (
          <label key={method} className="flex items-start gap-2">
            <input
              type="checkbox"
              className="mt-1.5"
              checked={isOpen}
              disabled={problem(method) !== null}
              onChange={() =>
                set(`${isOpen ? 'Shut' : 'Open'} signing in by ${label.toLowerCase()}`, (next) => {
                  next.methods = toggled(next.methods, method);
                })
              }
            />
            <span>
              {label}
              <span className="block text-sm text-soft">
                {says}
                {problem(method) !== null && !isOpen && ` Not yet: ${problem(method)}.`}
              </span>
            </span>
          </label>
        );
      })}
    </fieldset>
  );
}

/** Of whom a second factor is asked. */
export function SecondFactorFields({
  of,
  rules,
  set,
}: {
  of: readonly { id: string; name: string }[];
  rules: KnownSignInRules;
  set: SetRules;
}) {
  const asked = rules.secondFactor ?? [];
  return (
    <fieldset className="grid gap-2">
      <legend className="mb-1 font-semibold">A second factor is asked of</legend>
      <div className="flex flex-wrap gap-x-5 gap-y-1">
        {of.map(({ id, name }) => (
          <label key={id} className="flex items-center gap-2">
            <input
              type="checkbox"
              checked={asked.includes(id)}
              onChange={(event) => {
                const others = asked.filter((each) => each !== id);
                const next = event.target.checked ? [...others, id] : others;
                set('Say of whom a second factor is asked', (changed) => {
                  if (next.length > 0) changed.secondFactor = next;
                  else delete changed.secondFactor;
                });
              }}
            />
            {name}
          </label>
        ))}
      </div>
      <p className="text-sm text-soft">
        Everybody may set one up; of these it is asked from their next sign-in on. A passkey needs none beside it.
      </p>
    </fieldset>
  );
}

/** A length of time of the rules, typed in a larger unit than it is kept in. */
export function TimeField({
  name,
  label,
  unit,
  per = 1,
  rules,
  set,
}: {
  name: 'idleMinutes' | 'lastsHours' | 'linkDays';
  label: string;
  unit: string;
  per?: number;
  rules: KnownSignInRules;
  set: SetRules;
}) {
  return (
    <Field label={label}>
      {(ids) => (
        <span className="flex items-center gap-2">
          <input
            className="field w-24"
            type="number"
            min={1}
            {...ids}
            key={rules[name]}
            defaultValue={rules[name] / per}
            onBlur={(event) => {
              const value = Math.round(Number(event.target.value) * per);
              if (value > 0 && value !== rules[name])
                set(`Set ${label.toLowerCase()}`, (next) => void (next[name] = value));
            }}
          />
          {unit}
        </span>
      )}
    </Field>
  );
}
