/** What a mail says: a subject, and Markdown with values in it. */
export interface MailWords {
  subject: string;
  text: string;
}

/** The mails whose words a portal can set. */
export const mailKinds = [
  'invitation',
  'reminder',
  'code',
  'forgotten',
  'sign-up invitation',
  'sign-up',
  'known already',
  'approval',
  'changed address',
] as const;

export type MailKind = (typeof mailKinds)[number];

/** A value of a mail that is a column of the person's roster row: `owners.parish`. */
export function columnValue(value: string): { table: string; column: string } | null {
  const at = value.indexOf('.');
  return at < 1 ? null : { table: value.slice(0, at), column: value.slice(at + 1) };
}
