import { counted } from '../../../core/text/counted';
import { useState } from 'react';
import { Check, X } from 'lucide-react';
import type { PortalPromise } from '../../../core/definition/promise';
import { findTable } from '../../../core/table/catalogue';
import { usePromises, type PromiseOutcome } from '../../client/access';
import { problemText } from '../../client/http';
import { Button } from '../../ui/Button';
import { Notice } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { firstCondition } from './choices';
import { PromiseEditor } from './PromiseEditor';
import { outcomeWords, promiseSentence } from './promise-words';
import { freeId } from '../../../core/definition/free-id';
import { Select } from '../../ui/Select';
import { useNames } from '../bench/names';

/** The sentences that the draft must keep, each with what became of it. */
export function Promises() {
  const { slug, draft, catalogue, state, edit } = useBench();
  const tested = usePromises(slug, state.revision, (draft.promises ?? []).length > 0);
  const [open, setOpen] = useState<string | null>(null);
  const add = async (says: PortalPromise['says'], table: string) => {
    const id = freeId(`promise-${(draft.promises ?? []).length + 1}`, draft.promises ?? []);
    const promise: PortalPromise =
      says === 'sees exactly'
        ? { id, who: { member: '' }, says, records: 0, table }
        : {
            id,
            who: { everyone: true, exceptRoles: [] },
            says,
            operation: 'see',
            table,
            ...(says === 'may only' ? { where: firstCondition(findTable(catalogue, table)!) } : {}),
          };
    if (
      (await edit('Add a promise', (next) => {
        (next.promises ??= []).push(promise);
      })) === null
    )
      setOpen(id);
  };
  const broken = tested.data?.outcomes.filter((outcome) => !outcome.kept).length ?? 0;
  return (
    <>
      {tested.isError && <Notice kind="fault">{problemText(tested.error)}</Notice>}
      {tested.data && (draft.promises ?? []).length > 0 && (
        <Notice
          kind={broken > 0 ? 'fault' : 'say'}
          action={
            <Button small disabled={tested.isFetching} onClick={() => void tested.refetch()}>
              Test again
            </Button>
          }
        >
          {broken === 0
            ? 'Every promise is kept.'
            : `${broken} of ${counted(tested.data.outcomes.length, 'promise')} ${broken === 1 ? 'is' : 'are'} ` +
              'broken. Publishing asks for a reason then.'}
        </Notice>
      )}
      <ul className="grid gap-2">
        {(draft.promises ?? []).map((promise) => (
          <PromiseLine
            key={promise.id}
            promise={promise}
            outcome={tested.data?.outcomes.find((each) => each.id === promise.id)}
            open={open === promise.id}
            onOpen={(is) => setOpen(is ? promise.id : null)}
          />
        ))}
      </ul>
      {catalogue.tables.length > 0 && <AddPromise onAdd={(says, table) => void add(says, table)} />}
    </>
  );
}

/** What a new promise is about, said before there is one. */
function AddPromise({ onAdd }: { onAdd: (says: PortalPromise['says'], table: string) => void }) {
  const { catalogue } = useBench();
  const names = useNames();
  const [says, setSays] = useState<PortalPromise['says']>('may never');
  const [table, setTable] = useState(catalogue.tables[0]!.name);
  return (
    <form
      aria-label="Add a promise"
      className="flex flex-wrap items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        onAdd(says, table);
      }}
    >
      <span>Someone</span>
      <Select
        aria-label="What is promised"
        className="w-auto"
        value={says}
        onPick={(picked) => setSays(picked as typeof says)}
      >
        {(['may never', 'may only', 'must be able to', 'sees exactly'] as const).map((each) => (
          <option key={each} value={each}>
            {each === 'sees exactly' ? 'sees exactly so many' : each}
          </option>
        ))}
      </Select>
      <span>records of</span>
      <Select aria-label="Of which table" className="w-auto" value={table} onPick={(picked) => setTable(picked)}>
        {catalogue.tables.map((each) => (
          <option key={each.name} value={each.name}>
            {names.table(each.name)}
          </option>
        ))}
      </Select>
      <Button small type="submit">
        Add this promise
      </Button>
    </form>
  );
}

function PromiseLine({
  promise,
  outcome,
  open,
  onOpen,
}: {
  promise: PortalPromise;
  outcome: PromiseOutcome | undefined;
  open: boolean;
  onOpen: (open: boolean) => void;
}) {
  const { draft, catalogue, edit } = useBench();
  const sentence = promiseSentence(promise, draft, catalogue);
  return (
    <li
      className={
        'rounded-stone border border-l-4 border-line ' +
        `${outcome && !outcome.kept ? 'border-l-iron' : 'border-l-lichen'} p-3`
      }
    >
      <div className="flex flex-wrap items-start gap-3">
        <span className="mt-0.5">
          {outcome ? (
            outcome.kept ? (
              <Check size={17} aria-label="kept" className="text-lichen-ink" />
            ) : (
              <X size={17} aria-label="broken" className="text-iron" />
            )
          ) : null}
        </span>
        <div className="min-w-0 flex-1">
          <p className="font-semibold break-words">{sentence}</p>
          {outcome && <p className="text-sm text-soft">{outcomeWords(outcome, promise)}</p>}
        </div>
        <Button small aria-expanded={open} onClick={() => onOpen(!open)}>
          Change<span className="sr-only">: {sentence}</span>
        </Button>
        <Button
          small
          onClick={() =>
            void edit('Take back a promise', (next) => {
              next.promises = next.promises!.filter((each) => each.id !== promise.id);
            })
          }
        >
          Take back<span className="sr-only">: {sentence}</span>
        </Button>
      </div>
      {open && <PromiseEditor promise={promise} />}
    </li>
  );
}
