import { BlockList, isIP } from 'node:net';

const bits = { 4: 32, 6: 128 } as const;

/** An address, or a network as its first address and how many bits of it count (RFC 4632, RFC 4291). */
function read(text: string): { address: string; family: 'ipv4' | 'ipv6'; prefix: number } | null {
  const [address = '', length, ...more] = text.split('/');
  const version = isIP(address) as 0 | 4 | 6;
  if (version === 0 || more.length > 0 || address.includes('%')) return null;
  const prefix = length === undefined ? bits[version] : /^\d{1,3}$/.test(length) ? Number(length) : -1;
  if (prefix < 0 || prefix > bits[version]) return null;
  return { address, family: version === 4 ? 'ipv4' : 'ipv6', prefix };
}

export const isNetwork = (text: string): boolean => read(text) !== null;

/** Whether an address lies in one of the networks; in any when there are none. */
export function isWithin(networks: readonly string[], address: string | undefined): boolean {
  if (networks.length === 0) return true;
  const list = new BlockList();
  for (const text of networks) {
    const network = read(text);
    if (network) list.addSubnet(network.address, network.prefix, network.family);
  }
  // A socket for both kinds gives addresses of the fourth version within the sixth (RFC 4291, 2.5.5.2).
  const plain = address?.replace(/^::ffff:(?=\d+\.\d+\.\d+\.\d+$)/i, '') ?? '';
  const version = isIP(plain);
  return version !== 0 && list.check(plain, version === 4 ? 'ipv4' : 'ipv6');
}
