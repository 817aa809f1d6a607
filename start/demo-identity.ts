import type { SignInRules } from '../core/sign-in/sign-in-rules';
import { saveBuilderRules } from '../server/sessions/builder-rules';
import { IdentityProviders } from '../server/sign-in/identity-provider';
import { Portal, Setting } from '../server/store/models';
import { readSetting } from '../server/store/store';
import type { Account } from '../standins/identity/account';
import { openProvider, type StandInProvider } from '../standins/identity/provider';

/** Known to everybody who reads this: the demo keeps nothing from anybody. */
export const demoClientSecret = 'a secret of the demo';

/** The setting that keeps where it was. */
export const demoProvider = 'demo provider';

/** The demo's own identity provider. */
export interface DemoIdentity {
  provider: StandInProvider;
  /** How the demo's portal signs in with it beside other ways. */
  signIn: SignInRules;
  /** Gives everybody whom the sign-in page lists an account, once the demo is there. */
  fill(secretKey: Buffer): Promise<void>;
}

interface Named {
  email: string;
  name: string;
}

/** Opens the provider where it was at the last start, if that is free. */
export async function openDemoIdentity(last: string | null): Promise<DemoIdentity> {
  const accounts: Account[] = [];
  const options = {
    accounts,
    clientSecret: demoClientSecret,
    returnsTo: (address: string) =>
      /^http:\/\/localhost:\d+\/api\/(?:portals\/[\w-]+|builder)\/provider\/back$/.test(address),
  };
  const port = last === null ? 0 : Number(new URL(last).port);
  const provider = await openProvider({ ...options, port }).catch(() => openProvider(options));
  const signIn: SignInRules = {
    methods: ['password', 'code', 'single sign-on', 'passkey'],
    provider: { label: 'Sign in with the demo’s accounts', issuer: provider.issuer, clientId: provider.clientId },
  };
  return {
    provider,
    signIn,
    fill: async (secretKey) => {
      await Setting.upsert({ name: demoProvider, value: provider.issuer });
      const demo = await readSetting('demo');
      const { members = {}, builder } = JSON.parse(demo ?? '{}') as {
        members?: Record<string, { people: Named[] }>;
        builder?: { people: Named[] };
      };
      const providers = new IdentityProviders(secretKey, true);
      const open = ({ people }: { people: Named[] }) =>
        accounts.push(...people.map(({ email, name }) => ({ email, name, isVerified: true })));
      if (builder) open(builder);
      if (builder && !(await providers.hasSecret(null))) {
        await providers.saveSecret(null, demoClientSecret);
        await saveBuilderRules(signIn);
      }
      for (const [slug, { people }] of Object.entries(members)) {
        open({ people });
        const portal = await Portal.findOne({ where: { slug } });
        if (portal && !(await providers.hasSecret(portal.id))) await providers.saveSecret(portal.id, demoClientSecret);
      }
    },
  };
}
