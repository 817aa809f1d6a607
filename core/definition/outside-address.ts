/**
 * An address outside that actions may call. The secret that calls to it are signed with is kept apart from the
 * definition, and is never shown again.
 */
export interface OutsideAddress {
  id: string;
  name: string;
  url: string;
}

/** Why an address can't be called; null where it can. A plain one is for networks of one's own alone. */
export function addressProblem(text: string): string | null {
  let url: URL;
  try {
    url = new URL(text);
  } catch {
    return 'This is no address. One begins with https:// and names a host.';
  }
  if (url.protocol !== 'https:' && url.protocol !== 'http:') return 'An address begins with https://.';
  if (url.username !== '' || url.password !== '')
    return 'No name or password stands in an address: what is sent is signed.';
  if (url.hash !== '') return 'What stands after # is never sent. Leave it out.';
  return null;
}
