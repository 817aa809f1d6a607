import { signInRules } from '../../../core/sign-in/sign-in-rules';
import { useBenchAction } from '../../client/builder';
import { useProvider, useTryProvider } from '../../client/people';
import { useBench } from '../bench/bench-context';
import { ProviderSettings } from './ProviderSettings';

/** The identity provider of a portal's members: a part of the draft but for its secret, which holds at once. */
export function PortalProvider() {
  const { slug, draft, edit } = useBench();
  const found = useProvider(slug);
  const save = useBenchAction(slug, 'PUT /sign-in/provider/secret');
  return (
    <ProviderSettings
      provider={signInRules(draft).provider}
      state={found.data}
      trying={useTryProvider(slug)}
      save={(provider) =>
        edit('Set the identity provider', (changed) => {
          (changed.signIn ??= { methods: ['password'] }).provider = provider;
        })
      }
      saveSecret={(secret) => save.mutateAsync({ body: { secret } })}
    />
  );
}
