/** Whether an address may stand in a frame: a page on TLS, without somebody's name and password in it. */
export function isFramed(address: string): boolean {
  if (!URL.canParse(address) || /[\s\\]/.test(address)) return false;
  const { protocol, username, password } = new URL(address);
  return protocol === 'https:' && username === '' && password === '';
}
