import { useState } from 'react';
import {
  signInMethods,
  signInProblem,
  signInRules,
  type SignInMethod,
  type SignInRules,
} from '../../../core/sign-in/sign-in-rules';
import { useMailServer } from '../../client/people';
import { Accordion } from '../../ui/Accordion';
import { Field } from '../../ui/Field';
import { Notice } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { StageHead } from '../bench/StageFrame';
import { MailEditor } from './MailEditor';
import { ProviderSettings } from './ProviderSettings';

const methods: Record<SignInMethod, { label: string; says: string }> = {
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
    says: 'Added by members themselves once they are in; opened by their device, and as good as two proofs.',
  },
};

/** How members prove who they are. A part of the draft: it holds once it is published. */
export function SigningIn() {
  const { slug, draft, edit } = useBench();
  const rules = signInRules(draft);
  const server = useMailServer(slug);
  const [open, setOpen] = useState('');
  const set = (label: string, change: (rules: SignInRules) => void) =>
    edit(label, (next) => {
      next.signIn ??= { methods: [...rules.methods] };
      change(next.signIn);
    });
  const problem = (method: SignInMethod): string | null => {
    const next = rules.methods.includes(method)
      ? rules.methods.filter((each) => each !== method)
      : [...rules.methods, method];
    return next.length === 0 ? 'there must be a way in' : signInProblem({ ...rules, methods: next });
  };
  const toggle = (method: SignInMethod) =>
    set(
      `${rules.methods.includes(method) ? 'Shut' : 'Open'} signing in by ${methods[method].label.toLowerCase()}`,
      (next) => {
        next.methods = next.methods.includes(method)
          ? next.methods.filter((each) => each !== method)
          : [...next.methods, method];
      },
    );
  const number = (name: 'idleMinutes' | 'lastsHours' | 'linkDays', label: string, unit: string, per = 1) => (
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
                void set(`Set ${label.toLowerCase()}`, (next) => void (next[name] = value));
            }}
          />
          {unit}
        </span>
      )}
    </Field>
  );
  return (
    <>
      <StageHead title="Signing in" />
      <div className="grid max-w-200 gap-5 p-4">
        <fieldset className="grid gap-2">
          <legend className="mb-1 font-semibold">Members prove who they are by</legend>
          {signInMethods.map((method) => (
            <label key={method} className="flex items-start gap-2">
              <input
                type="checkbox"
                className="mt-1.5"
                checked={rules.methods.includes(method)}
                disabled={problem(method) !== null}
                onChange={() => void toggle(method)}
              />
              <span>
                {methods[method].label}
                <span className="block text-sm text-soft">
                  {methods[method].says}
                  {problem(method) !== null && !rules.methods.includes(method) && ` Not yet: ${problem(method)}.`}
                </span>
              </span>
            </label>
          ))}
        </fieldset>
        {server.data?.server === null && (
          <Notice kind="warn">
            No mail server is set, so nobody gets a code or a link to a password. Set it in the outbox.
          </Notice>
        )}
        <ProviderSettings />
        <fieldset className="grid gap-2">
          <legend className="mb-1 font-semibold">A second factor is asked of</legend>
          <div className="flex flex-wrap gap-x-5 gap-y-1">
            {draft.roles
              .filter((role) => (role.for ?? 'members') === 'members')
              .map((role) => (
                <label key={role.id} className="flex items-center gap-2">
                  <input
                    type="checkbox"
                    checked={rules.secondFactor?.includes(role.id) ?? false}
                    onChange={(event) => {
                      const others = (rules.secondFactor ?? []).filter((each) => each !== role.id);
                      const next = event.target.checked ? [...others, role.id] : others;
                      void set(`Say of whom a second factor is asked`, (changed) => {
                        if (next.length > 0) changed.secondFactor = next;
                        else delete changed.secondFactor;
                      });
                    }}
                  />
                  {role.name}
                </label>
              ))}
          </div>
          <p className="text-sm text-soft">
            Everybody may set one up; of these it is asked from their next sign-in on. A passkey needs none beside it.
          </p>
        </fieldset>
        <div className="grid gap-4 md:grid-cols-3">
          {number('idleMinutes', 'A session ends unused after', 'hours', 60)}
          {number('lastsHours', 'And in any case after', 'days', 24)}
          {number('linkDays', 'An invitation works for', 'days')}
        </div>
        <h2 className="text-base">What the mails say</h2>
        <Accordion open={open} onOpen={setOpen}>
          <MailEditor kind="code" />
          <MailEditor kind="forgotten" />
        </Accordion>
      </div>
    </>
  );
}
