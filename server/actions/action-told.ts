import { tableRights } from '../../core/access/rights';
import { pagesFor } from '../../core/access/audience';
import { constantValue } from '../../core/condition/operand-value';
import type { Action, Ask } from '../../core/definition/action';
import { formOpenedWith } from '../../core/definition/opened-form';
import { printPath } from '../../core/definition/path';
import { findTable } from '../../core/table/catalogue';
import type { Value } from '../../core/table/value';
import { isTold } from '../columns/told-constant';
import { inputInfo } from '../columns/input-info';
import type { ColumnInfo } from '../columns/column-info';
import { columnInfo } from '../columns/column-answers';
import { at, viewSql, type PlacedVisit } from '../gate/gate';
import { cell, form, listOf, said, saidOrNull, yesNo } from '../http/answers';
import { isSourceAway } from '../sources/connection-problem';

/** An action as somebody gets it who has the right to it; with which records it can be done, those say. */
export interface ActionTold {
  id: string;
  table: string;
  name: string;
  /** Whether it can be done with several records at once. */
  several: boolean;
  confirm: string | null;
  says: string | null;
  asks: AskTold[];
  /** The page that it leads to; null where it leads to none that is for this person. */
  go: string | null;
  /** The section there whose form is opened with the record; null where none is. */
  goWith: string | null;
}

/** What is asked before an action is done. */
export interface AskTold {
  id: string;
  table: string;
  column: ColumnInfo;
  required: boolean;
  /** What stands there at first: a value, or what the record has at a path. */
  first: { value: Value } | { path: string } | null;
}

export const actionTold = form<ActionTold>({
  id: said,
  table: said,
  name: said,
  several: yesNo,
  confirm: saidOrNull,
  says: saidOrNull,
  asks: listOf(
    form<AskTold>({
      id: said,
      table: said,
      column: columnInfo,
      required: yesNo,
      first: form<{ value?: Value; path?: string }>({ value: cell.optional(), path: said.optional() }).allow(null),
    }),
  ),
  go: saidOrNull,
  goWith: saidOrNull,
});

/** The actions that somebody has the right to with some record, in the definition's order. */
export async function actionsTold(visit: PlacedVisit): Promise<ActionTold[]> {
  const tables = new Set((visit.definition.actions ?? []).map(({ table }) => table));
  const theirs = new Map<Action, PlacedVisit>();
  for (const name of tables) {
    const there = await at(visit, name).catch((error: unknown) => {
      if (isSourceAway(error)) return null;
      throw error;
    });
    const table = there && findTable(there.catalogue, name);
    if (!there || !table) continue;
    for (const action of tableRights(viewSql(there).view(table)).actions) theirs.set(action, there);
  }
  const pages = new Set(pagesFor(visit).map(({ id }) => id));
  return (visit.definition.actions ?? []).flatMap((action) => {
    const there = theirs.get(action);
    return there ? [told(there, action, pages)] : [];
  });
}

function told(visit: PlacedVisit, action: Action, pages: ReadonlySet<string>): ActionTold {
  const { id, table, name, several, confirm = null, says = null, asks, steps } = action;
  const go = steps.findLast((step) => step.kind === 'go');
  const leads = go !== undefined && pages.has(go.page);
  return {
    id,
    table,
    name,
    several: several !== undefined,
    confirm,
    says,
    asks: asks.flatMap((ask) => askTold(visit, ask)),
    go: leads ? go.page : null,
    goWith: leads && go.withRecord ? (formOpenedWith(visit.definition, go.page, table) ?? null) : null,
  };
}

function askTold(visit: PlacedVisit, { id, table, column, label, required, first }: Ask): AskTold[] {
  const info = inputInfo(visit, table, column);
  if (!info) return [];
  return [
    {
      id,
      table,
      column: label === undefined ? info : { ...info, label },
      required: required === true,
      first: !first
        ? null
        : first.kind === 'column'
          ? { path: printPath(first.path) }
          : isTold(first, viewSql(visit))
            ? { value: constantValue(first, viewSql(visit).context) }
            : null,
    },
  ];
}
