import { useMutation } from '@tanstack/react-query';
import type { SignInRules } from '../../core/sign-in/sign-in-rules';
import { workplace } from '../client/bench';
import { problemText } from '../client/http';
import { useBuilderProvider, useBuilderRules, useRulesChange } from '../client/owners';
import { Notice, Skeleton } from '../ui/Notice';
import { OwnersPage } from './OwnersPage';
import { ProviderSettings } from './people/ProviderSettings';
import { MethodFields, SecondFactorFields, TimeField, type SetRules } from './people/SignInFields';

const rights = [
  { id: 'owner', name: 'Owners' },
  { id: 'builder', name: 'Builders' },
  { id: 'reader', name: 'Readers' },
];

/** How those who build prove who they are. It holds at once, for every portal. */
export default function HowTheySignIn() {
  const found = useBuilderRules();
  const provider = useBuilderProvider();
  const save = useRulesChange((body: SignInRules) => workplace('PUT /sign-in/rules', { body }));
  const saveSecret = useRulesChange((secret: string) =>
    workplace('PUT /sign-in/provider/secret', { body: { secret } }),
  );
  const trying = useMutation({ mutationFn: () => workplace('POST /sign-in/provider/try') });
  const rules = found.data?.rules;
  const changed = (change: (next: SignInRules) => void): SignInRules => {
    const next = structuredClone(rules!) as SignInRules;
    change(next);
    return next;
  };
  const set: SetRules = (_label, change) => save.mutate(changed(change));
  return (
    <OwnersPage title="How they sign in" says="Of all who build here. It holds at once.">
      {found.isPending && <Skeleton />}
      {found.isError && <Notice kind="fault">{problemText(found.error)}</Notice>}
      {save.isError && <Notice kind="fault">{problemText(save.error)}</Notice>}
      {found.data && rules && (
        <div className="grid gap-5">
          <MethodFields who="Those who build" rules={rules} set={set} />
          {!found.data.hasMailServer && (
            <Notice kind="warn">
              No mail server is set, so nobody gets a code or a link to a password. Set it in the outbox of a portal.
            </Notice>
          )}
          <ProviderSettings
            provider={rules.provider}
            state={provider.data}
            trying={trying}
            save={async (chosen) => {
              await save.mutateAsync(changed((next) => void (next.provider = chosen)));
              return null;
            }}
            saveSecret={(secret) => saveSecret.mutateAsync(secret)}
          />
          <SecondFactorFields of={rights} rules={rules} set={set} />
          <div className="grid gap-4 md:grid-cols-3">
            <TimeField
              name="idleMinutes"
              label="A session ends unused after"
              unit="hours"
              per={60}
              rules={rules}
              set={set}
            />
            <TimeField name="lastsHours" label="And in any case after" unit="days" per={24} rules={rules} set={set} />
          </div>
        </div>
      )}
    </OwnersPage>
  );
}
