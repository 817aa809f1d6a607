import { useQueryClient } from '@tanstack/react-query';
import type { Table } from '../../../core/table/catalogue';
import { importTarget } from '../../../core/table/import-target';
import { bench } from '../../client/bench';
import { benchFiles, fileAddress, type ImportWays } from '../../client/files';
import { BringFile } from '../../files/BringFile';
import { useBench } from '../bench/bench-context';

/** A builder brings a file into a table. */
export function ImportIntoTable({ table }: { table: Table }) {
  const { slug, draft, catalogue } = useBench();
  const client = useQueryClient();
  const start = bench(slug);
  const called = {
    table: (name: string) => draft.tables[name]?.label ?? name,
    column: (of: string, name: string) => draft.tables[of]?.columns?.[name]?.label ?? name,
  };
  const ways: ImportWays = {
    ...benchFiles(slug),
    plan: async (file) => ({
      ...(await start('GET /files/:file/plan/:table', { params: { file, table: table.name } })),
      target: importTarget(table, catalogue, called),
    }),
    look: (file, plan) => start('POST /jobs', { body: { kind: 'look at an import', file, plan } }),
    bring: (file, plan, mode, digest) => start('POST /jobs', { body: { kind: 'import', file, plan, mode, digest } }),
    refused: (_job, file) => fileAddress(slug, file),
  };
  return (
    <div className="grid content-start gap-4 p-4">
      <BringFile
        ways={ways}
        table={table.name}
        onAgain={() => void client.invalidateQueries({ queryKey: ['builder', slug] })}
      />
    </div>
  );
}
