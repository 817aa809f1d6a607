/** An e-mail address as people are told apart by it: without the space around it, in lower case. */
export function normaliseEmail(email: string): string {
  return email.trim().toLowerCase();
}
