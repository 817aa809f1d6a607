import { useQueryClient } from '@tanstack/react-query';
import type { Brought } from '../../../core/definition/brought';
import type { Table } from '../../../core/table/catalogue';
import { importTarget } from '../../../core/table/import-target';
import { bench } from '../../client/bench';
import { benchFiles, fileAddress, type ImportWays } from '../../client/files';
import { problemText } from '../../client/http';
import { useFetchBrought } from '../../client/timed';
import { Button } from '../../ui/Button';
import { Notice } from '../../ui/Notice';
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
        further={(goOn) =>
          draft.brought
            ?.filter((brought) => brought.table === table.name)
            .map((brought) => <FetchNow key={brought.id} brought={brought} onJob={goOn} />)
        }
        onAgain={() => void client.invalidateQueries({ queryKey: ['builder', slug] })}
      />
    </div>
  );
}

/** Fetches what is brought each day at once, to be looked at and brought by hand. */
function FetchNow({ brought, onJob }: { brought: Brought; onJob: (job: number) => void }) {
  const { slug } = useBench();
  const fetching = useFetchBrought(slug, brought.id);
  return (
    <div className="grid justify-items-start gap-2">
      <Button
        disabled={fetching.isPending}
        onClick={() => fetching.mutate(undefined, { onSuccess: ({ id }) => onJob(id) })}
      >
        {fetching.isPending ? 'Fetching it …' : `Fetch ${brought.name} now`}
      </Button>
      {fetching.isError && <Notice kind="fault">{problemText(fetching.error)}</Notice>}
    </div>
  );
}
