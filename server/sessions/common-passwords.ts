let known: Promise<ReadonlySet<string>> | null = null;

/**
 * Whether a password is among the some 49,000 that @zxcvbn-ts/language-common has gathered from breaches, in small
 * letters. Read when first asked.
 */
export async function commonPasswords(): Promise<(password: string) => boolean> {
  known ??= import('@zxcvbn-ts/language-common').then(
    ({ dictionary }) => new Set((dictionary['passwords-common'] as string[]).map((each) => each.toLowerCase())),
  );
  const list = await known;
  return (password) => list.has(password);
}
