import { createConnection } from 'mariadb';
import { demoDefinition } from '../demo/definition';
import { demoPassword, loadDemo } from '../demo/load';
import { readDefinition } from '../sections/definition';
import type { Person } from '../core/access/person';
import type { PortalDefinition } from '../core/definition/definition';
import { writeAudit } from '../server/audit/audit';
import type { AuditSeals } from '../server/audit/seals';
import { edit, type PlacedVisit } from '../server/gate/gate';
import type { CoreServices } from '../server/definitions/portal-services';
import { historyKeeper } from '../server/leaving/keep-history';
import { startServer } from '../server/server';
import { KeptChange } from '../server/store/history-model';
import { Portal } from '../server/store/models';
import { publishDraft } from '../server/versions/publish';
import { openStore } from '../server/store/store';
import { quantile, round, type Figure } from './figures';
import { withMariadb } from './local-databases';

const edits = 600;
const lines = 3000;

/** What it costs a write that what changes is kept, and a line of the log that the log is sealed. */
export async function history(): Promise<Figure[]> {
  return withMariadb(['alder_fen', 'stone_porch'], async (address) => {
    const store = await openStore(address, 'stone_porch');
    await loadDemo(address, 'alder_fen', store, 'stone_porch');
    await store.close();
    const server = await startServer({ database: address, ownSchema: 'stone_porch', port: 0, webFolder: null });
    try {
      const { services } = server;
      const portal = (await Portal.findOne({ rejectOnEmpty: true })).id;
      const kept = readDefinition(demoDefinition('alder_fen'));
      const unkept = readDefinition({ ...demoDefinition('alder_fen') });
      delete unkept.tables.wells!.history;
      const visitOf = async (definition: PortalDefinition): Promise<PlacedVisit> => {
        const person: Person = { kind: 'member', id: 1, email: 'd@x', organisation: null, roles: ['desk'], rows: {} };
        const asking = { ...(await services.sources.of(definition)), definition, person, moment: new Date() };
        return { ...asking, history: () => historyKeeper(services, { ...asking, portalId: portal, changedBy: null }) };
      };
      const [with_, without] = [await visitOf(kept), await visitOf(unkept)];
      const change = async (visit: PlacedVisit, i: number): Promise<number> => {
        const id = String(1 + (i % 500));
        const from = performance.now();
        const depth = `${20 + (i % 7)}.${visit === with_ ? 1 : 2}`;
        await edit(visit.source, visit, 'wells', id, { depth_m: { to: depth, from: last.get(id) ?? null } });
        last.set(id, depth);
        return performance.now() - from;
      };
      const last = new Map<string, string>();
      const plain = await createConnection({ ...address, database: 'alder_fen', decimalAsNumber: false });
      const depths = await plain.query<{ id: number; depth_m: string | null }[]>('SELECT id, depth_m FROM wells');
      await plain.end();
      for (const { id, depth_m: depth } of depths) if (depth !== null) last.set(String(id), depth);
      const [ours, reference]: [number[], number[]] = [[], []];
      for (let i = 0; i < edits + 100; i++) {
        const both = [await change(without, i), await change(with_, i)];
        // The first ones warm up what both use.
        if (i >= 100) {
          reference.push(both[0]!);
          ours.push(both[1]!);
        }
      }
      const written = await KeptChange.count();
      if (written !== edits + 100) throw new Error(`${written} lines are kept of ${edits + 100} edits`);
      const [one, other] = [quantile(ours, 0.5), quantile(reference, 0.5)];
      return [
        {
          name: 'an edit at the gate of a record whose history is kept, median',
          ours: round(one),
          reference: round(other),
          unit: 'ms',
          ratio: round(one / other),
          aim: 'said',
        },
        await overHttp(server.port, services, portal, [kept, unkept]),
        await sealed(services.seals, portal),
      ];
    } finally {
      await server.close();
    }
  });
}

/** Lines that are written one after the other, without what it takes to seal them and with it. */
async function sealed(seals: AuditSeals, portal: number): Promise<Figure> {
  const from = performance.now();
  for (let i = 0; i < lines; i++) await writeAudit(portal, 'bench', 'exported', `line ${i} of the bench`);
  const written = performance.now() - from;
  const soon = new Date(Date.now() + 60_000);
  const before = performance.now();
  const count = await seals.seal(soon);
  const sealing = performance.now() - before;
  if (count < lines) throw new Error(`${count} lines were sealed of ${lines}`);
  return {
    name: '3,000 lines of the audit log, written and sealed',
    ours: round(written + sealing, 0),
    reference: round(written, 0),
    unit: 'ms',
    ratio: round((written + sealing) / written),
    aim: '1.05 or less',
  };
}

/** The same edit as the desk makes it over HTTP; by turns the one and the other is published. */
async function overHttp(
  port: number,
  services: CoreServices,
  portalId: number,
  definitions: readonly PortalDefinition[],
): Promise<Figure> {
  const base = `http://127.0.0.1:${port}/api/portals/alder-fen`;
  const headers: Record<string, string> = { 'x-stone-porch': 'bench', 'content-type': 'application/json' };
  const asDesk = JSON.stringify({ email: 'odile.fennimore@example.org', password: demoPassword });
  const signedIn = await fetch(`${base}/sign-in`, { method: 'POST', headers, body: asDesk });
  headers.cookie = signedIn.headers
    .getSetCookie()
    .map((each) => each.split(';')[0]!)
    .join('; ');
  const times: [number[], number[]] = [[], []];
  let from: string | null = null;
  const change = async (to: string): Promise<number> => {
    const body = JSON.stringify({ changes: { depth_m: { from, to } } });
    const begun = performance.now();
    const answer = await fetch(`${base}/records/wells/501`, { method: 'PATCH', headers, body });
    await answer.arrayBuffer();
    if (answer.status !== 200) throw new Error(`an edit was answered ${answer.status}`);
    from = to;
    return performance.now() - begun;
  };
  const first = await fetch(`${base}/records/wells/501?columns=depth_m`, { headers });
  from = ((await first.json()) as { record: { values: { depth_m: string | null } } }).record.values.depth_m;
  for (let turn = 0; turn < 8; turn++) {
    const portal = await Portal.findByPk(portalId, { rejectOnEmpty: true });
    await portal.update({ draft: JSON.stringify(definitions[turn % 2]), revision: portal.revision + 1 });
    await publishDraft(services.store.sequelize, portalId, portal.revision, '', 'bench');
    for (let i = 0; i < 250; i++) {
      const took = await change(`${30 + (i % 9)}.${turn}`);
      if (i >= 50) times[turn % 2]!.push(took);
    }
  }
  const [ours, reference] = [quantile(times[0], 0.5), quantile(times[1], 0.5)];
  return {
    name: 'the same over HTTP, median',
    ours: round(ours),
    reference: round(reference),
    unit: 'ms',
    ratio: round(ours / reference),
    aim: '1.3 or less',
  };
}
