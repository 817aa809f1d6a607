import { ExpectedView, keyOfRow } from '../../core/proof/expected';
import { HeldRows } from '../../core/proof/held-rows';
import type { Random } from '../../core/proof/random';
import { readCondition } from '../../core/condition/check';
import { withCeilings } from '../../core/definition/ceilings';
import { printPath } from '../../core/definition/path';
import { visibleColumns } from '../../core/access/view';
import type { Catalogue } from '../../core/table/catalogue';
import type { Row } from '../../core/table/value';
import type { PlacedVisit } from '../../server/gate/gate';
import { recordId } from '../../server/gate/view/record-id';
import { Counts, outcomeOf, type Caller } from './caller';
import { Changing } from './changing';
import { Wrong, type Stream } from './stream';

const ceilings = '/builder/portals/alder-fen/ceilings/owners';
const open = { where: '', create: true, edit: true, delete: true, export: true, columns: {} };

interface Closing {
  where: string;
  columns: Record<string, 'nothing'>;
}

/** What the table of owners is closed to above all rights, by turns. */
const states: Closing[] = [
  open,
  { ...open, columns: { phone: 'nothing' } },
  { ...open, where: "parish = 'Saltby'" },
  { ...open, where: "parish <> 'Saltby'", columns: { postal_address: 'nothing' } },
];

/** What a person must get of the owners, by core in memory: how many there are, and each by its id. */
interface Expected {
  total: number;
  records: Map<string, string>;
}

/** A builder closes and opens the owners; people look at them, and nobody ever gets more, or less, than holds then. */
export class Rights {
  private readonly held = new Changing(0);
  readonly changes: Stream;
  private readonly did = new Counts();

  constructor(
    private readonly builder: Caller,
    private readonly base: { catalogue: Catalogue; rows: Map<string, Row[]> },
    random: Random,
  ) {
    this.changes = {
      name: 'closings',
      isSteady: true,
      turn: async () => {
        const to = random.int(0, states.length - 1);
        const outcome = await this.held.to(to, async () =>
          this.did.of(await this.builder.send('PUT', ceilings, states[to])),
        );
        return outcome === 'done';
      },
      judge: () => Promise.resolve([]),
      counts: () => this.did.all,
    };
  }

  /** Opens what may have been closed before. */
  async open(): Promise<void> {
    if (outcomeOf(await this.builder.send('PUT', ceilings, open)) !== 'done') throw new Error('could not be opened');
  }

  /** Somebody who looks, and is judged by what may have held from when they asked to when they were answered. */
  reader(name: string, caller: Caller, visit: PlacedVisit): Stream {
    const expected = states.map((state) => this.expected(visit, state));
    const did = new Counts();
    return {
      name,
      isSteady: true,
      turn: async () => {
        const asked = performance.now();
        const told = await caller.get('/portals/alder-fen/records/owners?size=200');
        const possible = this.held.possible(asked, performance.now()).map((state) => expected[state]!);
        if (told?.status !== 200) {
          did.add('not answered');
          if (told && told.status !== 503) throw new Wrong(`told ${told.status} ${JSON.stringify(told.body)}`);
          return false;
        }
        did.add('judged');
        const { total, records } = told.body as { total: number; records: Told[] };
        if (!possible.some((each) => each.total === total && records.every((one) => is(each, one))))
          throw new Wrong(
            `got ${total} owners, such as ${JSON.stringify(records[0])}; it may have been ${possible
              .map((each) => `${each.total}, such as ${[...each.records.values()][0]}`)
              .join(' or ')}`,
          );
        return true;
      },
      judge: () => Promise.resolve([]),
      counts: () => did.all,
    };
  }

  private expected({ definition, person, moment, standIn }: PlacedVisit, { where, columns }: Closing): Expected {
    const at = this.base.catalogue.tables.find(({ name }) => name === 'owners')!;
    const scope = { catalogue: this.base.catalogue, table: at, member: false };
    const rows = where === '' ? {} : { where: readCondition(where, scope) };
    const catalogue = withCeilings(this.base.catalogue, { owners: { ...rows, columns } });
    const view = new ExpectedView(new HeldRows(catalogue, this.base.rows), definition, person, moment, standIn ?? null);
    const table = catalogue.tables.find(({ name }) => name === 'owners')!;
    const paths = visibleColumns(view.view(table)).map((name) => [name]);
    const seen = view.rows(table);
    return {
      total: seen.length,
      records: new Map(
        seen.map((row) => {
          const values: Record<string, unknown> = {};
          const masked: string[] = [];
          for (const path of paths) {
            const cell = view.cell(table, row, path);
            if (cell.is === 'hidden') continue;
            values[printPath(path)] = cell.is === 'nothing' ? null : cell.value;
            if (cell.is === 'masked') masked.push(printPath(path));
          }
          const id = recordId(keyOfRow(table, row));
          return [id, inOrder({ id, values, masked })];
        }),
      ),
    };
  }
}

interface Told {
  id: string;
  values: Record<string, unknown>;
  masked: string[];
}

const is = (expected: Expected, told: Told): boolean => expected.records.get(told.id) === inOrder(told);

const inOrder = ({ id, values, masked }: Told): string =>
  JSON.stringify([id, Object.entries(values).toSorted(([a], [b]) => a.localeCompare(b)), masked.toSorted()]);
