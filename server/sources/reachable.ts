import { lookup } from 'node:dns/promises';
import { isIP } from 'node:net';
import ipaddr from 'ipaddr.js';
import { ConnectionProblem } from './connection-problem';

/**
 * Which addresses of a network a connection may lead to: a form that reaches every one would tell strangers what stands
 * behind the firewall.
 */

/**
 * Ranges that are of this machine or of the network around it, as ipaddr.js names them (RFC 1918, RFC 4193, RFC 6598
 * and others).
 */
const nearby = new Set(['loopback', 'private', 'uniqueLocal', 'carrierGradeNat']);

/** What is reached from everywhere by IPv6 (RFC 4291, 2.4); the package takes old forms beside it for the same. */
const everywhere = ipaddr.IPv6.parse('2000::');

function rangeOf(text: string): string {
  const address = ipaddr.process(text);
  const range = address.range();
  return range === 'unicast' && address instanceof ipaddr.IPv6 && !address.match(everywhere, 3) ? 'reserved' : range;
}

/** The addresses that a name server gives for a host; none where there is no such host. */
export type NameServer = (host: string) => Promise<string[]>;

const systems: NameServer = async (host) =>
  (await lookup(host, { all: true }).catch(() => [])).map((each) => each.address);

/**
 * The address of a host that a connection may lead to. Throws ConnectionProblem where there is no such host, or where
 * any of its addresses is not for databases: link-local ones never (clouds answer there with their secrets), those of
 * this machine and its network only where the installation says so.
 */
export async function reachableAddress(
  host: string,
  privateAddresses: boolean,
  named: NameServer = systems,
): Promise<string> {
  const found = isIP(host) ? [host] : await named(host);
  if (found.length === 0) throw new ConnectionProblem('host', `There is no host called ${host}. Check the name.`);
  for (const address of found) {
    const range = rangeOf(address);
    if (range === 'unicast' || (nearby.has(range) && privateAddresses)) continue;
    throw new ConnectionProblem(
      'host',
      nearby.has(range)
        ? `${host} is on this machine or its own network. This installation lets connections lead only ` +
            'elsewhere; STONE_PORCH_PRIVATE_DATABASES=1 at its start changes that.'
        : `${host} has an address that nothing is reached at from here. Choose another.`,
    );
  }
  return found[0]!;
}
