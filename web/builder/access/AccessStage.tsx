import { lazy, Suspense, useCallback, useEffect, useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import { strictestMask } from '../../../core/access/lens';
import { dataClasses, type PortalDefinition, type RowFilter } from '../../../core/definition/definition';
import { maskLabel } from '../../../core/mask/mask';
import { isClosed, findTable, type Table } from '../../../core/table/catalogue';
import { Button } from '../../ui/Button';
import { Notice, Skeleton } from '../../ui/Notice';
import { Stones, type Level } from '../../ui/Stones';
import { useAddress } from '../bench/address';
import { useBench } from '../bench/bench-context';
import { StageFrame, StageHead } from '../bench/StageFrame';
import { ownRows } from '../../../core/access/own-rows';
import { gridRows, readShow, showWords } from './grid-rows';
import { RolesShown } from './RolesShown';
import { RuleScreen, ruleScreens, type RuleScreenName } from './RuleScreen';
import { levels, setStones, type Stone } from './set-level';
import { StoneGrid, type GridChoice } from './StoneGrid';
import { Select } from '../../ui/Select';
import { useNames } from '../bench/names';
import { Named } from '../bench/Named';

/** Asked for once the grid is there, so that it is there when the first cell is chosen. */
const loadEditor = () => import('./GrantEditor');
const GrantEditor = lazy(loadEditor);

/**
 * Who sees and may do what: all tables against all roles, the chosen stone below; and the rules that hold for every
 * table.
 */
export default function AccessStage() {
  const { object, to, draft, catalogue } = useBench();
  const names = useNames();
  const screen = object?.startsWith('~') ? (object.slice(1) as RuleScreenName) : null;
  const known = screen !== null && Object.hasOwn(ruleScreens, screen);
  const item = (each: Table) => ({
    key: each.name,
    label: names.table(each.name),
    raw: each.name,
    aside: draft.access[each.name] ? Object.keys(draft.access[each.name]!).length : undefined,
    to: to('access', each.name),
    current: object === each.name,
  });
  const groups = [
    {
      title: 'Open to someone',
      items: [
        { key: '~', label: 'All tables', aside: catalogue.tables.length, to: to('access'), current: object === null },
        ...catalogue.tables.filter((each) => draft.access[each.name]).map(item),
      ],
    },
    {
      title: 'Hold for every table',
      items: (Object.keys(ruleScreens) as RuleScreenName[]).map((name) => ({
        key: name,
        label: ruleScreens[name].title,
        aside: ruleScreens[name].count(draft),
        to: to('access', `~${name}`),
        current: screen === name,
      })),
    },
    { title: 'Open to nobody', items: catalogue.tables.filter((each) => !draft.access[each.name]).map(item) },
  ].filter((group) => group.items.length > 0);
  return (
    <StageFrame title="Access" groups={groups}>
      {screen === null ? (
        <AccessGrid />
      ) : known ? (
        <RuleScreen name={screen} />
      ) : (
        <div className="p-4">
          <Notice kind="fault">There is no {screen} here. Choose on the left.</Notice>
        </div>
      )}
    </StageFrame>
  );
}

function AccessGrid() {
  const { catalogue, object, to, draft, edit } = useBench();
  const names = useNames();
  const navigate = useNavigate();
  const [params, change] = useAddress();
  useEffect(() => void loadEditor(), []);
  const [opened, setOpened] = useState<ReadonlySet<string>>(new Set());
  const [selected, setSelected] = useState<Stone[]>([]);
  const [left, setLeft] = useState<LaidStone[]>([]);
  const find = params.get('find') ?? '';
  const show = readShow(params.get('show'));
  const rolesText = params.get('roles');
  const roles = useMemo(() => {
    const wanted = rolesText?.split(',');
    return wanted ? draft.roles.filter((role) => wanted.includes(role.id)) : draft.roles;
  }, [draft.roles, rolesText]);
  const open = useMemo(() => (object === null ? opened : new Set([...opened, object])), [object, opened]);
  const rows = useMemo(() => {
    const all = gridRows(
      draft,
      catalogue,
      roles.map((role) => role.id),
      open,
      { find, show },
    );
    return object === null ? all : all.filter((row) => row.table.name === object);
  }, [draft, catalogue, roles, open, find, show, object]);
  const set = (name: string, value: string) =>
    change((address) => {
      if (value) address.set(name, value);
      else address.delete(name);
    });

  const role = draft.roles.find((each) => each.id === params.get('role')) ?? null;
  const table = findTable(catalogue, object ?? params.get('table') ?? '');
  const column = table?.columns.some((each) => each.name === params.get('column')) ? params.get('column') : null;
  const chosen: GridChoice | null = role && table ? { table: table.name, role: role.id, column } : null;
  // Shown at once: the next press sets what was chosen, and not what was open before.
  const choose = (choice: GridChoice) =>
    void navigate(
      to(
        'access',
        object,
        Object.fromEntries(
          Object.entries({
            ...Object.fromEntries(params),
            table: object === null ? choice.table : '',
            role: choice.role,
            column: choice.column ?? '',
          }).filter(([, value]) => value !== ''),
        ),
      ),
      { replace: true, flushSync: true },
    );
  const toggle = useCallback(
    (name: string, isOpen: boolean) =>
      setOpened((old) => {
        const next = new Set(old);
        if (isOpen) next.add(name);
        else next.delete(name);
        return next;
      }),
    [],
  );
  /** Roles that see no row of a table yet get their own, or those that are named. */
  const lay = (stones: LaidStone[], elseRows: RowFilter | null = null, excepting = false) => {
    if (stones.length === 0) return;
    const one = stones.length === 1 ? stones[0]! : null;
    const label = one
      ? `Make ${one.table.name}.${one.column} ${one.level} for ` +
        `${draft.roles.find((each) => each.id === one.role)?.name}`
      : `Set ${stones.length} stones`;
    void edit(label, (next) =>
      setLeft(setStones(next, stones, (of: Table, id) => ownRows(draft, catalogue, of, id)[0] ?? elseRows, excepting)),
    );
  };

  const veiled = left.filter(
    (stone) =>
      draft.access[stone.table.name]?.[stone.role]?.see &&
      draft.masks.some((rule) => 'column' in rule && rule.table === stone.table.name && rule.column === stone.column) &&
      strictestMask(draft, stone.table, stone.column, stone.role) !== null,
  );
  const rowless = left.filter(
    (stone) => !isClosed(stone.table, stone.column) && !draft.access[stone.table.name]?.[stone.role]?.see,
  );

  if (object !== null && !findTable(catalogue, object))
    return (
      <div className="p-4">
        <Notice kind="fault">There is no table {object}. Choose one on the left.</Notice>
      </div>
    );
  if (draft.roles.length === 0)
    return (
      <div className="p-4">
        <Notice kind="say">There are no roles yet. Make one under People, then say here what it sees.</Notice>
      </div>
    );
  return (
    <>
      <StageHead title={object ? <Named label={names.table(object)} raw={object} /> : 'Access'}>
        <input
          type="search"
          data-find
          aria-label="Find a table or column"
          placeholder="Find a table or column"
          className="field w-56"
          value={find}
          onChange={(event) => set('find', event.target.value)}
        />
        <Select
          aria-label="Show columns"
          className="w-auto"
          value={show}
          onPick={(picked) => set('show', picked === 'all' ? '' : picked)}
        >
          {Object.entries(showWords).map(([each, words]) => (
            <option key={each} value={each}>
              {words}
            </option>
          ))}
          <optgroup label="of a data class">
            {dataClasses.map((each) => (
              <option key={each} value={each}>
                {each}
              </option>
            ))}
          </optgroup>
        </Select>
        <RolesShown
          roles={draft.roles}
          shown={roles.map((each) => each.id)}
          onChange={(ids) => set('roles', ids.length === draft.roles.length ? '' : ids.join(','))}
        />
      </StageHead>
      <StoneGrid
        draft={draft}
        rows={rows}
        roles={roles}
        chosen={chosen}
        onChoose={choose}
        onOpen={toggle}
        onSet={lay}
        onSelect={setSelected}
      />
      {left.length > 0 && (
        <div className="border-t border-line p-2">
          <Notice
            kind="warn"
            action={
              <>
                {rowless.length > 0 && (
                  <Button small onClick={() => lay(rowless, 'every row')}>
                    {everyRowWords(rowless, draft.roles)}
                  </Button>
                )}{' '}
                {veiled.length > 0 && (
                  <Button small onClick={() => lay(veiled, null, true)}>
                    {exceptWords(veiled, draft.roles)}
                  </Button>
                )}{' '}
                <Button small onClick={() => setLeft([])}>
                  Close
                </Button>
              </>
            }
          >
            {leftWords(draft, left)}
          </Notice>
        </div>
      )}
      {selected.length > 1 && (
        <div
          role="group"
          aria-label="Selected stones"
          className="flex flex-wrap items-center gap-2 border-t border-line bg-sunk px-4 py-1.5"
        >
          <strong>{selected.length} stones</strong>
          {levels.map((level) => (
            <Button key={level} small onClick={() => lay(selected.map((stone) => ({ ...stone, level })))}>
              <Stones level={level} /> {level}
            </Button>
          ))}
          <span className="text-sm text-soft">or 0 to 3 on the keyboard</span>
        </div>
      )}
      <div className="max-h-[52%] min-h-32 shrink-0 overflow-y-auto border-t-2 border-line-strong">
        {table && role ? (
          <Suspense fallback={<Skeleton lines={5} />}>
            <GrantEditor key={`${table.name}/${role.id}`} table={table} role={role} column={column} />
          </Suspense>
        ) : (
          <p className="p-4 text-soft">
            Choose a table's cell to set which rows a role sees and what it may do, or open the table and choose a
            stone. By keyboard: arrows move, with <kbd className="key">Shift</kbd> they take several,{' '}
            <kbd className="key">0</kbd> to <kbd className="key">3</kbd> set the level, and{' '}
            <kbd className="key">Enter</kbd> opens it here, <kbd className="key">Ctrl C</kbd> and{' '}
            <kbd className="key">Ctrl V</kbd> copy.
          </p>
        )}
      </div>
    </>
  );
}

type LaidStone = Stone & { level: Level };

type Role = { id: string; name: string };

function everyRowWords(stones: Stone[], roles: Role[]): string {
  const tables = new Set(stones.map((stone) => stone.table.name));
  const names = [...new Set(stones.map((stone) => roles.find((each) => each.id === stone.role)?.name ?? stone.role))];
  return (
    `Let ${names.length === 1 ? names[0] : `${names.length} roles`} see every row of ` +
    `${tables.size === 1 ? [...tables][0] : `these ${tables.size} tables`}`
  );
}

function exceptWords(stones: LaidStone[], roles: Role[]): string {
  const names = [...new Set(stones.map((stone) => roles.find((each) => each.id === stone.role)?.name ?? stone.role))];
  const what = stones.length === 1 ? `${stones[0]!.table.name}.${stones[0]!.column}` : `these ${stones.length} columns`;
  return `Except ${names.length === 1 ? names[0] : `${names.length} roles`} from the masks on ${what}`;
}

/** Which stones are not as asked, and why: no rows yet, or the masks that stand. */
function leftWords(draft: PortalDefinition, left: LaidStone[]): string {
  const role = (id: string) => draft.roles.find((each) => each.id === id)?.name ?? id;
  const some = (all: string[]) => all.slice(0, 4).join(', ') + (all.length > 4 ? ` and ${all.length - 4} more` : '');
  const isRowless = (stone: Stone) => !draft.access[stone.table.name]?.[stone.role]?.see;
  const rowless = [
    ...new Set(
      left
        .filter((stone) => isRowless(stone) && !isClosed(stone.table, stone.column))
        .map((stone) => `${role(stone.role)} on ${stone.table.name}`),
    ),
  ];
  const closed = [
    ...new Set(
      left.filter((stone) => isClosed(stone.table, stone.column)).map((stone) => `${stone.table.name}.${stone.column}`),
    ),
  ];
  const masked = left
    .filter((stone) => !isRowless(stone))
    .flatMap((stone) => {
      const mask = strictestMask(draft, stone.table, stone.column, stone.role);
      return mask ? [`${stone.table.name}.${stone.column} for ${role(stone.role)} (${maskLabel(mask)})`] : [];
    });
  return [
    closed.length > 0 ? `The ceiling lets nobody read ${some(closed)}.` : '',
    rowless.length > 0 ? `Not as asked, since no rows are seen yet: ${some(rowless)}. Say first which.` : '',
    masked.length > 0
      ? `${masked.length === 1 ? 'One column stays' : `${masked.length} columns stay`} masked: ${some(masked)}. ` +
        'Laying stones takes no mask off; a mask on a data class is set under Masks.'
      : '',
  ]
    .filter(Boolean)
    .join(' ');
}
