import { useActions } from '../client/actions';
import type { ViewRecord } from '../client/portal';
import { usePlace } from '../place/place';
import { ActionButtons } from './ActionButtons';

/** The actions that can be done with a record, where it is listed. */
export default function RowActs({
  table,
  acts,
  offered = [],
  record,
  called,
}: {
  table: string;
  /** Those of the section. */
  acts: string[];
  /** Those that can be done with this record, as far as is told. */
  offered?: string[];
  record: ViewRecord;
  called: string;
}) {
  const { base } = usePlace();
  const { id } = record;
  const actions = useActions(base, table).filter((action) => acts.includes(action.id) && offered.includes(action.id));
  if (id === null || actions.length === 0) return null;
  return (
    <span className="no-print flex flex-wrap justify-end gap-1">
      <ActionButtons small actions={actions} on={{ record: { ...record, id } }} called={called} />
    </span>
  );
}
