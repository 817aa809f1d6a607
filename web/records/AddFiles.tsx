import { useRef, useState } from 'react';
import { Paperclip } from 'lucide-react';
import type { Circle } from '../../core/definition/hung';
import { problemText } from '../client/http';
import { useHanging } from '../client/attachments';
import { usePlace } from '../place/place';
import { Button } from '../ui/Button';
import { Notice } from '../ui/Notice';
import { CircleChoice } from './CircleChoice';

/** Where files are added to a record, one after the other; one that is refused is named and keeps no other back. */
export function AddFiles({ table, id, writes }: { table: string; id: string; writes: Circle[] }) {
  const { base, seenBy } = usePlace();
  const { add } = useHanging(base, table, id);
  const [chosen, setChosen] = useState<Circle>('forAll');
  const [sending, setSending] = useState<string | null>(null);
  const [refused, setRefused] = useState<string[]>([]);
  const [over, setOver] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const circle = writes.includes(chosen) ? chosen : writes[0]!;
  const send = async (files: readonly File[]) => {
    setRefused([]);
    for (const [i, file] of files.entries()) {
      setSending(files.length === 1 ? file.name : `${file.name}, ${i + 1} of ${files.length}`);
      try {
        await add.mutateAsync({ file, circle });
      } catch (error) {
        const reason = problemText(error);
        setRefused((known) => [...known, reason.includes(file.name) ? reason : `${file.name}: ${reason}`]);
      }
    }
    setSending(null);
  };
  const isOff = seenBy || sending !== null;
  return (
    <div
      className={
        'no-print grid gap-2 rounded-stone border border-dashed px-3 py-2 ' +
        (over ? 'border-water bg-sunk' : 'border-line-strong')
      }
      onDragOver={(event) => {
        event.preventDefault();
        setOver(!isOff);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        event.preventDefault();
        setOver(false);
        if (!isOff) void send([...event.dataTransfer.files]);
      }}
    >
      <CircleChoice circles={writes} chosen={circle} onChoose={setChosen} />
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <input
          ref={input}
          type="file"
          multiple
          hidden
          data-testid="files-to-add"
          onChange={(event) => {
            const files = [...(event.target.files ?? [])];
            // The same file may be chosen again after it was refused.
            event.target.value = '';
            void send(files);
          }}
        />
        <Button small disabled={isOff} onClick={() => input.current?.click()}>
          <Paperclip size={14} aria-hidden /> Add files{circle === 'amongUs' ? ' among us' : ''}
        </Button>
        <span role="status" className="text-sm text-soft">
          {seenBy
            ? 'Seen by shows the portal and changes nothing.'
            : sending
              ? `Sending ${sending} …`
              : 'or drop them here: pictures, PDF, documents, up to 25 MB each'}
        </span>
      </div>
      {refused.length > 0 && (
        <Notice kind="fault">
          <ul>
            {refused.map((each) => (
              <li key={each}>{each}</li>
            ))}
          </ul>
        </Notice>
      )}
    </div>
  );
}
