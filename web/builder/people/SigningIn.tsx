import { signInRules } from '../../../core/sign-in/sign-in-rules';
import { useMailServer } from '../../client/people';
import { Notice } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { StageHead } from '../bench/StageFrame';
import { MailsSay } from './MailsSay';
import { PortalProvider } from './PortalProvider';
import { MethodFields, SecondFactorFields, TimeField, type SetRules } from './SignInFields';

/** How members prove who they are. A part of the draft: it holds once it is published. */
export function SigningIn() {
  const { slug, draft, edit } = useBench();
  const rules = signInRules(draft);
  const server = useMailServer(slug);
  const set: SetRules = (label, change) =>
    void edit(label, (next) => {
      next.signIn ??= { methods: [...rules.methods] };
      change(next.signIn);
    });
  const fields = { rules, set };
  return (
    <>
      <StageHead title="Signing in" />
      <div className="grid max-w-200 gap-5 p-4">
        <MethodFields who="Members" {...fields} />
        {server.data?.server === null && (
          <Notice kind="warn">
            No mail server is set, so nobody gets a code or a link to a password. Set it in the outbox.
          </Notice>
        )}
        <PortalProvider />
        <SecondFactorFields of={draft.roles.filter((role) => (role.for ?? 'members') === 'members')} {...fields} />
        <div className="grid gap-4 md:grid-cols-3">
          <TimeField name="idleMinutes" label="A session ends unused after" unit="hours" per={60} {...fields} />
          <TimeField name="lastsHours" label="And in any case after" unit="days" per={24} {...fields} />
          <TimeField name="linkDays" label="An invitation works for" unit="days" {...fields} />
        </div>
        <MailsSay kinds={['code', 'forgotten', 'changed address']} />
      </div>
    </>
  );
}
