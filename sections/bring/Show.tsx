import { lazy, Suspense, useState } from 'react';
import { useQueryClient } from '@tanstack/react-query';
import { Download, FileUp } from 'lucide-react';
import { keptFiles } from '../../web/client/files';
import { recordAddress } from '../../web/client/portal';
import { usePlace } from '../../web/place/place';
import { Button, buttonLook } from '../../web/ui/Button';
import { Notice, Skeleton } from '../../web/ui/Notice';
import type { ShowProps } from '../show';

/** It comes when a file is to be brought: most visits bring none. */
const BringFile = lazy(() => import('../../web/files/BringFile').then(({ BringFile: part }) => ({ default: part })));

/** Brings files into the table that somebody keeps, and takes it out. */
export default function BringShow({ section }: ShowProps<'bring'>) {
  const { base, seenBy } = usePlace();
  const client = useQueryClient();
  const [round, setRound] = useState(0);
  const [open, setOpen] = useState(false);
  if (!section.open) return <Notice kind="say">There is nothing here that you could bring a file into.</Notice>;
  const again = () => {
    setRound(round + 1);
    void client.invalidateQueries({ queryKey: [base] });
  };
  return (
    <div className="grid gap-4 rounded-stone border border-line bg-paper p-4">
      <div className="flex flex-wrap items-center gap-3">
        <p className="mr-auto text-soft">
          A sheet of {section.label.toLowerCase()} is looked at before anything is changed: what would be added, changed
          and refused.
        </p>
        {section.exports && !seenBy && (
          <a
            className={buttonLook('plain')}
            href={recordAddress(base)('GET /exports/:table', {
              params: { table: section.table },
              query: { format: 'csv' },
            })}
            download
          >
            <Download size={16} aria-hidden /> Take it out
          </a>
        )}
        {!open && (
          <Button weight="main" disabled={seenBy} onClick={() => setOpen(true)}>
            <FileUp size={16} aria-hidden /> Bring a file …
          </Button>
        )}
      </div>
      {seenBy && <p className="text-sm text-soft">Seen by changes nothing.</p>}
      {open && (
        <Suspense fallback={<Skeleton lines={4} />}>
          <BringFile key={round} ways={keptFiles(base, section.steward)} table={section.table} onAgain={again} />
        </Suspense>
      )}
    </div>
  );
}
