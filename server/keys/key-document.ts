import { actionsTold } from '../actions/action-told';
import { tableInfo } from '../columns/column-info';
import { tableRights } from '../../core/access/rights';
import { printPath, readPath } from '../../core/definition/path';
import { findTable, plainLabel } from '../../core/table/catalogue';
import { at, NotFound, viewSql } from '../gate/gate';
import { inputInfo } from '../columns/input-info';
import { problem, problemAnswer } from '../http/open-api';
import { isSourceAway } from '../sources/connection-problem';
import type { PortalVisit } from '../visits/member-visit';
import { OfTable, type KeyTable } from './table-operations';

type Json = Record<string, unknown>;

/**
 * The document (OpenAPI 3.1.1) of what one key has: the tables that its service sees or fills, with their columns, and
 * the operations that are its right, under what is published now. Examples are invented, and tell nothing of what is
 * there.
 */
export async function keyDocument(visit: PortalVisit): Promise<Json> {
  const { definition, catalogue } = visit;
  const { slug, name } = definition.portal;
  const under = `/api/v1/portals/${slug}`;
  const actions = await actionsTold(visit);
  const paths: Json = {};
  const schemas: Json = { Problem: problem };
  const tags: Json[] = [];
  for (const { name: table } of catalogue.tables) {
    const info = await infoOf(visit, table);
    if (!info) continue;
    const inputs = new Map(
      [...(info.fills ?? []), ...info.changes].flatMap((path) => {
        const input = inputInfo(visit, table, readPath(path)![0]!);
        return input ? [[path, input] as const] : [];
      }),
    );
    const own = new OfTable(info, inputs, under);
    tags.push({ name: info.label });
    Object.assign(paths, own.paths(actions.filter((action) => action.table === table)));
    Object.assign(schemas, own.schemas());
  }
  return {
    openapi: '3.1.1',
    info: {
      title: `${name}, as ${visit.name} has it`,
      version: '1',
      summary: 'The tables, columns and operations of this key, under what is published now.',
    },
    servers: [{ url: '/' }],
    security: [{ key: [] }],
    tags,
    paths,
    components: {
      securitySchemes: { key: { type: 'http', scheme: 'bearer', description: 'The key, as it was told once.' } },
      schemas,
      responses: { Problem: problemAnswer },
    },
  };
}

/** Null where the service has nothing of the table, or its source is away. */
async function infoOf(visit: PortalVisit, table: string): Promise<KeyTable | null> {
  try {
    const there = await at(visit, table);
    const found = findTable(there.catalogue, table);
    const { sees, fills, history } = tableRights(viewSql(there).view(found!));
    if (sees) return { ...(await tableInfo(there, table)), history };
    if (fills === null) return null;
    // It may add, and sees nothing.
    return {
      table,
      label: visit.definition.tables[table]?.label ?? plainLabel(table),
      key: [],
      columns: [],
      fills: [...fills].map((column) => printPath([column])),
      changes: [],
      removes: false,
      exports: false,
      history: false,
      through: [],
    };
  } catch (error) {
    if (error instanceof NotFound || isSourceAway(error)) return null;
    throw error;
  }
}
