import { spawn, type ChildProcess } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { Advice } from '../core/refusals/advice';

interface At {
  name: string;
  port: number;
}

/** What stands behind the proxy, and where it lets in. */
export interface Behind {
  /** People come here. */
  port: number;
  servers: At[];
  /** The servers come here for their database. */
  databasePort: number;
  nodes: (At & { checkPort: number })[];
}

/** What is said where no server is ready: they aren't where no node that may decide is. */
const nobody = "Stone Porch can't be reached at the moment. Nothing was changed. Try again in a few seconds.";

/**
 * What haproxy is told. People go to the servers by turns, to those that say that they are ready. All servers go to one
 * node, and stay there until it is lost, also when one before it is back: what is locked in one node is not locked in
 * another, and two that write the same find out only when they are done.
 */
function proxySettings({ port, servers, databasePort, nodes }: Behind): string {
  return `global
  maxconn 8000

defaults
  timeout connect 3s
  # Else a check has no longer than from one to the next, and a busy machine loses a node that is there.
  timeout check 1500ms
  timeout client 1h
  timeout server 1h

frontend people
  mode http
  bind 127.0.0.1:${port}
  option forwardfor
  http-request set-header X-Forwarded-Proto http
  default_backend servers
  http-error status 503 content-type text/plain string "${nobody}" hdr Retry-After 5

backend servers
  mode http
  balance roundrobin
  option httpchk GET /health/ready
  http-check expect status 200
  # One that could not be reached got nothing yet: another is asked.
  option redispatch 1
  retries 2
  # Those that are down are looked at more often: people wait for them.
  default-server check inter 1s downinter 250ms fall 2 rise 1
${servers.map((each) => `  server ${each.name} 127.0.0.1:${each.port}`).join('\n')}

listen nodes
  mode tcp
  bind 127.0.0.1:${databasePort}
  option tcpka
  balance first
  stick-table type integer size 1 nopurge
  stick on int(1)
  option httpchk GET /
  http-check expect status 200
  default-server check inter 500ms downinter 250ms fall 2 rise 1 on-marked-down shutdown-sessions
${nodes.map((each) => `  server ${each.name} 127.0.0.1:${each.port} port ${each.checkPort}`).join('\n')}
`;
}

/** Starts haproxy in front; an Advice where it won't. */
export async function startProxy(folder: string, behind: Behind): Promise<ChildProcess> {
  const file = join(folder, 'haproxy.cfg');
  writeFileSync(file, proxySettings(behind), { mode: 0o600 });
  // In a group of its own, so that Ctrl-C reaches only us and we end all in order.
  const child = spawn('/usr/sbin/haproxy', ['-q', '-db', '-f', file], {
    stdio: ['ignore', 'ignore', 'pipe'],
    detached: true,
  });
  let said = '';
  child.stderr!.on('data', (part: Buffer) => (said += part.toString()));
  // It ends at once where a port is taken or a line is wrong.
  const ended = new Promise<void>((resolve) => child.once('exit', () => resolve()));
  const serves = (async () => {
    while (child.exitCode === null) {
      const answer = await fetch(`http://127.0.0.1:${behind.port}/`).catch(() => null);
      if (answer) return;
      await sleep(50);
    }
  })();
  await Promise.race([ended, serves]);
  if (child.exitCode !== null) throw new Advice(`haproxy could not start:\n${said.trim()}`);
  return child;
}
