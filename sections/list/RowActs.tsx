import { useActions } from '../../web/client/actions';
import type { ListAnswer } from '../../web/client/portal';
import { usePlace } from '../../web/place/place';
import { ActionButtons } from '../../web/records/ActionButtons';
import type { ShowProps } from '../show';
import { calledOf } from './called';

/** The actions that can be done with a record of a list, at its line. */
export default function RowActs({
  section,
  record,
  answer,
  place,
}: {
  section: ShowProps<'list'>['section'];
  record: ListAnswer['records'][number];
  answer: ListAnswer;
  place: number;
}) {
  const { base } = usePlace();
  const { id } = record;
  const offered = answer.acts?.[place] ?? [];
  const actions = useActions(base, section.table).filter(
    (action) => section.acts.includes(action.id) && offered.includes(action.id),
  );
  if (id === null || actions.length === 0) return null;
  return (
    <span className="no-print flex flex-wrap justify-end gap-1">
      <ActionButtons
        small
        actions={actions}
        on={{ record: { ...record, id } }}
        called={calledOf(record, section.columns[0]!)}
      />
    </span>
  );
}
