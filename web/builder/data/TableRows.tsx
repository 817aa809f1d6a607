import { useQueryClient } from '@tanstack/react-query';
import { useCallback } from 'react';
import { useNavigate } from 'react-router';
import { historyOf } from '../../../core/definition/history';
import { findTable, type Table } from '../../../core/table/catalogue';
import { allRecords } from '../../client/bench';
import { Grid } from '../../grid/Grid';
import type { KeptQuestion } from '../../grid/kept-question';
import { RecordLinksProvider, type RecordSpot } from '../../records/record-links';
import { useAddress } from '../bench/address';
import { useBench } from '../bench/bench-context';
import { HistoryKept } from './HistoryKept';
import { ExportAction } from './ExportAction';

export function Rows({ table }: { table: Table }) {
  const { slug, catalogue, draft, to } = useBench();
  const navigate = useNavigate();
  const client = useQueryClient();
  const onChanged = useCallback(() => {
    void client.invalidateQueries({ queryKey: ['builder', slug, 'counts'] });
  }, [client, slug]);
  const [params, change] = useAddress();
  const kept = { sort: params.get('sort') ?? '', filter: params.get('filter') ?? '', search: params.get('find') ?? '' };
  const keep = ({ sort, filter, search }: KeptQuestion) =>
    change((address) => {
      for (const [name, value] of Object.entries({ show: 'rows', sort, filter, find: search })) {
        if (value === '') address.delete(name);
        else address.set(name, value);
      }
    });
  const leads = useCallback<RecordSpot>(
    (other, id) => {
      if (!findTable(catalogue, other)) return null;
      const href = to('data', other, { show: 'rows', open: id });
      return { href, go: () => void navigate(href) };
    },
    [catalogue, to, navigate],
  );
  const open = (id: string | null) =>
    change((address) => {
      if (id === null) address.delete('open');
      else address.set('open', id);
    });
  return (
    <RecordLinksProvider value={leads}>
      <Grid
        base={allRecords(slug)}
        opened={params.get('open')}
        onOpened={open}
        table={table.name}
        kept={kept}
        onKept={keep}
        onChanged={onChanged}
        beneath={(id) => historyOf(draft, table) && <HistoryKept key={id} table={table} id={id} />}
        onExport={(question, format, guard) => (
          <ExportAction
            key={`${format} ${JSON.stringify(question)}`}
            slug={slug}
            table={table.name}
            question={question}
            format={format}
            guard={guard}
          />
        )}
      />
    </RecordLinksProvider>
  );
}
