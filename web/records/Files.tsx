import { FileText, Users, X } from 'lucide-react';
import { problemText, ServerProblem } from '../client/http';
import { attachmentAddresses, useAttachments, useHanging, type AttachmentTold } from '../client/attachments';
import { usePlace } from '../place/place';
import { Button } from '../ui/Button';
import { Notice, Skeleton } from '../ui/Notice';
import { Question } from '../ui/Question';
import { Unanswered } from './Answered';
import { AddFiles } from './AddFiles';
import { dayText } from './member-words';
import { sizeText } from './size-text';
import { writer } from './writer';

/** The files that hang on a record, pictures in small, and a place to add more. */
export default function Files({ table, id, under }: { table: string; id: string; under: 'h1' | 'h2' }) {
  const Heading = under === 'h1' ? 'h2' : 'h3';
  const { base } = usePlace();
  const answer = useAttachments(base, table, id);
  // By the role through which they have this record none of its files is theirs to open.
  if (answer.error instanceof ServerProblem && answer.error.status === 404) return null;
  const { files = [], writes = [] } = answer.data ?? {};
  return (
    <section aria-label="Files" className="grid gap-3 border-t border-line pt-3">
      <Heading className="text-base">
        Files
        {answer.data && <span className="ml-2 font-normal text-soft">{files.length.toLocaleString()}</span>}
      </Heading>
      <Unanswered answer={answer} />
      {answer.isPending && <Skeleton lines={2} />}
      {answer.data && files.length === 0 && <p className="text-soft">No files yet.</p>}
      {files.length > 0 && (
        <ul className="grid grid-cols-[repeat(auto-fill,minmax(10rem,1fr))] gap-2">
          {files.map((file) => (
            <li key={file.id}>
              <Tile table={table} id={id} file={file} />
            </li>
          ))}
        </ul>
      )}
      {writes.length > 0 && <AddFiles table={table} id={id} writes={writes} />}
    </section>
  );
}

function Tile({ table, id, file }: { table: string; id: string; file: AttachmentTold }) {
  const { base, seenBy } = usePlace();
  const { takeOut } = useHanging(base, table, id);
  const { whole, small } = attachmentAddresses(base, table, id, file.id);
  const inner = file.circle === 'amongUs';
  return (
    <article
      className={
        'relative grid h-full content-start overflow-hidden rounded-stone border bg-paper ' +
        (inner ? 'border-dashed border-line-strong' : 'border-line')
      }
    >
      {file.file === null ? (
        <p className="px-2.5 py-2 text-soft">Kept from you: it may hold personal data.</p>
      ) : (
        <a href={whole} target="_blank" rel="noreferrer" className="grid text-ink no-underline hover:underline">
          <span className="grid aspect-[4/3] place-items-center overflow-hidden border-b border-line bg-sunk text-soft">
            {file.hasSmall ? (
              <img src={small} alt="" loading="lazy" className="size-full object-cover" />
            ) : (
              <FileText size={30} aria-hidden />
            )}
          </span>
          <span className="line-clamp-2 px-2.5 pt-1.5 font-semibold break-all">
            <bdi>{file.file}</bdi>
          </span>
        </a>
      )}
      <p className="px-2.5 pb-2 text-sm text-soft">
        {inner && (
          <span className="flex items-center gap-1 font-semibold text-ink">
            <Users size={13} aria-hidden /> Among us
          </span>
        )}
        {writer(file)}, <time dateTime={file.writtenAt}>{dayText(file.writtenAt)}</time> · {sizeText(file.size)}
      </p>
      {file.deletable && (
        <Question
          title={`Take out ${file.file ?? 'this file'}?`}
          says={<p>It is gone for everyone who opens files here.</p>}
          keep="Keep it"
          go="Take it out"
          onGo={() => takeOut.mutate(file.id)}
          trigger={
            <Button
              small
              weight="plain"
              className="no-print absolute top-1.5 right-1.5"
              disabled={seenBy}
              aria-label={`Take out ${file.file ?? 'this file'}`}
            >
              <X size={14} aria-hidden />
            </Button>
          }
        />
      )}
      {takeOut.isError && <Notice kind="fault">{problemText(takeOut.error)}</Notice>}
    </article>
  );
}
