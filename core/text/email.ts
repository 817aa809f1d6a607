/** An e-mail address as people are told apart by it: without the space around it, in lower case. */
export function normaliseEmail(email: string): string {
  return email.trim().toLowerCase();
}

/** Whether an address is of one of the domains: the domain itself, not one below it. */
export function isOfDomains(email: string, domains: readonly string[] | undefined): boolean {
  if (domains === undefined) return true;
  const known = normaliseEmail(email);
  const at = known.slice(known.lastIndexOf('@') + 1);
  return domains.some((domain) => domain.toLowerCase() === at);
}
