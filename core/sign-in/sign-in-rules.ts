/** Ways to prove who one is. Each proves an e-mail address; who comes in with it is decided elsewhere. */
export const signInMethods = ['password', 'code', 'single sign-on', 'passkey'] as const;

export type SignInMethod = (typeof signInMethods)[number];

/** An identity provider (OpenID Connect) whose word on an address is taken. Its secret is kept elsewhere. */
export interface IdentityProvider {
  /** What the button says. */
  label: string;
  issuer: string;
  clientId: string;
  /** Which claim is the e-mail; it counts only where the provider says that it is verified. */
  emailClaim?: string;
}

/** How a portal's members sign in. */
export interface SignInRules {
  methods: SignInMethod[];
  /** A session ends so many minutes after it was last used, and so many hours after it began. */
  idleMinutes?: number;
  lastsHours?: number;
  /** So many days an invitation's link works. */
  linkDays?: number;
  provider?: IdentityProvider;
  /** Roles that ask for a second factor. */
  secondFactor?: string[];
}

/** What holds where a portal says nothing. */
const standardSignIn = {
  methods: ['password'],
  idleMinutes: 12 * 60,
  lastsHours: 7 * 24,
  linkDays: 7,
} as const;

/** A portal's rules, with ours where it has none. */
export function signInRules({ signIn }: { signIn?: SignInRules }): KnownSignInRules {
  return { ...standardSignIn, methods: [...standardSignIn.methods], ...signIn };
}

/** Rules that say everything but what may be absent. */
export type KnownSignInRules = SignInRules & Required<Pick<SignInRules, 'idleMinutes' | 'lastsHours' | 'linkDays'>>;

/** What is wrong with the rules as a whole, in a sentence; null when nothing is. */
export function signInProblem({ methods, provider }: SignInRules): string | null {
  if (methods.every((method) => method === 'passkey'))
    return 'a passkey is added after signing in another way, so it can not be the only one';
  if (methods.includes('single sign-on') && !provider) return 'single sign-on needs a provider';
  return null;
}
