import { QueryTypes } from 'sequelize';
import { signInRules } from '../core/sign-in/sign-in-rules';
import { loadDemo } from '../demo/load';
import { readDefinition } from '../sections/definition';
import { Sources } from '../server/definitions/definitions';
import { refreshMembers } from '../server/people/refresh';
import { rostersOf } from '../server/people/rosters-at';
import { beginSession } from '../server/sessions/sessions';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';
import { Portal } from '../server/store/models';
import { openStore } from '../server/store/store';
import { withMariadb } from './local-databases';
import { growToMillion } from './million';
import { withServers, type StartServer } from './put-together';

/** The demo with a million visits and 160,000 members in a database of its own; all is gone when the work is done. */
export function withGrownDemo<T>(work: (address: DatabaseAddress, start: StartServer) => Promise<T>): Promise<T> {
  return withMariadb(['stone_porch', 'alder_fen'], async (address) => {
    await grow(address);
    return withServers(address, (start) => work(address, start));
  });
}

async function grow(address: DatabaseAddress): Promise<void> {
  const store = await openStore(address, 'stone_porch');
  await loadDemo(address, 'alder_fen', store, 'stone_porch');
  console.log('growing to a million visits …');
  await growToMillion(address, 'alder_fen');
  // Whom the growth brought: a server that starts would take 160,000 members in beside what is measured.
  const sources = new Sources(address, { ownSchema: 'stone_porch', connections: 2 });
  const portal = await Portal.findOne({ where: { slug: 'alder-fen' }, rejectOnEmpty: true });
  const rosters = await rostersOf({ sources }, readDefinition(JSON.parse(portal.draft)));
  await store.sequelize.transaction((transaction) => refreshMembers(portal.id, rosters, transaction));
  await sources.close();
  await store.close();
}

/** Samplers that came with the growth, with a session each: their cookies. */
export async function grownSamplers(address: DatabaseAddress, count: number): Promise<string[]> {
  const store = await openStore(address, 'stone_porch');
  try {
    // Of the demo's own some left, and some are owners as well.
    const rows = await store.sequelize.query<{ memberId: number }>(
      `SELECT member_id memberId FROM memberships WHERE roster_table = 'samplers' AND CAST(row_key AS UNSIGNED) > 100
        ORDER BY member_id LIMIT ${count}`,
      { type: QueryTypes.SELECT },
    );
    const cookies: string[] = [];
    for (const { memberId } of rows)
      cookies.push(`stone_porch_member=${await beginSession({ memberId }, undefined, signInRules({}))}`);
    return cookies;
  } finally {
    await store.close();
  }
}
