/** Ways to prove who one is. Each proves an e-mail address; who comes in with it is decided elsewhere. */
export const signInMethods = ['password', 'code'] as const;

export type SignInMethod = (typeof signInMethods)[number];

/** How a portal's members sign in. */
export interface SignInRules {
  methods: SignInMethod[];
  /** A session ends so many minutes after it was last used, and so many hours after it began. */
  idleMinutes?: number;
  lastsHours?: number;
  /** So many days an invitation's link works. */
  linkDays?: number;
}

/** What holds where a portal says nothing. */
export const standardSignIn = {
  methods: ['password'],
  idleMinutes: 12 * 60,
  lastsHours: 7 * 24,
  linkDays: 7,
} as const satisfies Required<{ [K in keyof SignInRules]: SignInRules[K] | readonly SignInMethod[] }>;

/** A portal's rules, with ours where it has none. */
export function signInRules({ signIn }: { signIn?: SignInRules }): Required<SignInRules> {
  return { ...standardSignIn, methods: [...standardSignIn.methods], ...signIn };
}
