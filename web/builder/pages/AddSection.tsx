import { Plus } from 'lucide-react';
import { rolesNamed } from '../../../core/access/public-pages';
import { useId, useState } from 'react';
import type { Page } from '../../../core/definition/definition';
import { findTable, type Table } from '../../../core/table/catalogue';
import { sectionEdits } from '../../../sections/edit';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';
import { Button } from '../../ui/Button';
import { Dialog } from '../../ui/Dialog';

type OnAdd = (kind: string, table: Table | null, thing: string | null) => void;

/** Adds a section: of which kind, with what each is for, and of which table or other thing where it is about one. */
export function AddSection({ page, onAdd }: { page: Page; onAdd: OnAdd }) {
  const [open, setOpen] = useState(false);
  return (
    <Dialog
      title={`A section for ${page.title}`}
      open={open}
      onOpenChange={setOpen}
      wide
      trigger={
        <Button className="justify-self-start">
          <Plus size={15} aria-hidden /> Section
        </Button>
      }
    >
      <KindChoice
        page={page}
        onAdd={(...added) => {
          setOpen(false);
          onAdd(...added);
        }}
      />
    </Dialog>
  );
}

/** Kinds that a builder can begin now: those that are about something which the portal lacks are left out. */
function useKinds() {
  const { draft } = useBench();
  return Object.entries(sectionEdits)
    .map(([kind, { word, says, ofTable, things }]) => ({ kind, word, says, ofTable, of: things?.(draft) ?? null }))
    .filter(({ of }) => of === null || of.length > 0)
    .toSorted((a, b) => Number(b.ofTable) - Number(a.ofTable) || Number(a.of !== null) - Number(b.of !== null));
}

function KindChoice({ page, onAdd }: { page: Page; onAdd: OnAdd }) {
  const kinds = useKinds();
  const group = useId();
  const [chosen, setChosen] = useState('list');
  const current = kinds.find(({ kind }) => kind === chosen) ?? kinds[0]!;
  return (
    <div className="grid gap-4 md:grid-cols-[1fr_14rem]">
      <fieldset className="grid content-start gap-0.5">
        <legend className="mb-1 text-sm font-semibold">What it is</legend>
        {kinds.map(({ kind, word, says }) => (
          <label
            key={kind}
            className={
              'flex cursor-pointer items-baseline gap-2 rounded-stone border px-2 py-1 ' +
              (kind === current.kind ? 'border-water bg-water-wash' : 'border-transparent hover:bg-sunk')
            }
          >
            <input
              type="radio"
              name={group}
              className="shrink-0 translate-y-0.5"
              checked={kind === current.kind}
              onChange={() => setChosen(kind)}
            />
            <span className="text-sm text-soft">
              <strong className="text-base text-ink">{word}</strong> {says}
            </span>
          </label>
        ))}
      </fieldset>
      {current.ofTable ? (
        <TableChoice page={page} onPick={(table) => onAdd(current.kind, table, null)} />
      ) : current.of ? (
        <div className="grid content-start gap-1">
          <h3 className="text-sm">Of</h3>
          {current.of.map(({ id, label }) => (
            <Button key={id} className="justify-start" onClick={() => onAdd(current.kind, null, id)}>
              {label}
            </Button>
          ))}
        </div>
      ) : (
        <Button weight="main" className="self-start" onClick={() => onAdd(current.kind, null, null)}>
          Put it on the page
        </Button>
      )}
    </div>
  );
}

/** The tables that somebody sees who gets the page; the others with a press more. */
function TableChoice({ page, onPick }: { page: Page; onPick: (table: Table) => void }) {
  const { catalogue, draft } = useBench();
  const names = useNames();
  const [all, setAll] = useState(false);
  const openable = catalogue.tables.filter((table) => table.key.length > 0);
  const { roles } = page.audience;
  const readers = rolesNamed(roles, draft);
  const seen = openable.filter(({ name }) => readers.some((role) => draft.access[name]?.[role]?.see));
  const shown = all || seen.length === 0 ? openable : seen;
  return (
    <div className="grid content-start gap-1">
      <h3 className="text-sm">Of the records of</h3>
      <div className="grid max-h-[60vh] gap-1 overflow-y-auto">
        {shown.map(({ name }) => (
          <Button
            key={name}
            className="justify-start"
            onClick={() => {
              const table = findTable(catalogue, name);
              if (table) onPick(table);
            }}
          >
            {names.table(name)}
          </Button>
        ))}
      </div>
      {shown.length < openable.length && (
        <Button small weight="quiet" className="justify-self-start" onClick={() => setAll(true)}>
          Tables that none of its roles sees
        </Button>
      )}
    </div>
  );
}
