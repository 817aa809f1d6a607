import { isOutside } from '../../core/text/outside-address';

/** Whether an address may stand in a frame: a page on TLS, without somebody's name and password in it. */
export function isFramed(address: string): boolean {
  if (!/^https:\/\//i.test(address) || !isOutside(address)) return false;
  const { username, password } = new URL(address);
  return username === '' && password === '';
}
