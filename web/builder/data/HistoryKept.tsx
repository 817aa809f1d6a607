import { useMutation, useQueryClient } from '@tanstack/react-query';
import type { Table } from '../../../core/table/catalogue';
import { allRecords, bench } from '../../client/bench';
import { problemText } from '../../client/http';
import RecordHistory from '../../records/RecordHistory';
import { Button } from '../../ui/Button';
import { Notice } from '../../ui/Notice';
import { Question } from '../../ui/Question';
import { useBench } from '../bench/bench-context';

/** What changed in a record, as the workplace has it, with the way to erase what stood there. */
export function HistoryKept({ table, id }: { table: Table; id: string }) {
  const { slug } = useBench();
  const client = useQueryClient();
  const erase = useMutation({
    mutationFn: () => bench(slug)('DELETE /tables/:table/records/:id/history', { params: { table: table.name, id } }),
    onSuccess: () => client.invalidateQueries({ queryKey: [allRecords(slug), 'history', table.name, id] }),
  });
  return (
    <>
      <RecordHistory base={allRecords(slug)} table={table.name} id={id} under="h1" />
      <Question
        title="Erase what stood in this record?"
        says="Who changed it and when stays, without the values. This can't be taken back."
        keep="Keep it"
        go="Erase it"
        onGo={() => erase.mutate()}
        trigger={
          <Button small className="justify-self-start">
            Erase what stood here
          </Button>
        }
      />
      {erase.isError && <Notice kind="fault">{problemText(erase.error)}</Notice>}
    </>
  );
}
