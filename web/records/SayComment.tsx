import { useState, type FormEvent } from 'react';
import { problemText } from '../client/http';
import { useSaying, type Circle } from '../client/comments';
import { usePlace, useUnsaved } from '../place/place';
import { Button } from '../ui/Button';
import { Field } from '../ui/Field';
import { Notice } from '../ui/Notice';
import { CircleChoice } from './CircleChoice';

const most = 4000;

const words: Record<Circle, string> = { forAll: 'Send to all', amongUs: 'Send among us' };

/** Where something is said of a record; the button says to whom it goes. */
export function SayComment({ table, id, writes }: { table: string; id: string; writes: Circle[] }) {
  const { base, seenBy } = usePlace();
  const { say } = useSaying(base, table, id);
  const [text, setText] = useState('');
  const [chosen, setChosen] = useState<Circle>('forAll');
  const circle = writes.includes(chosen) ? chosen : writes[0]!;
  const isEmpty = text.trim() === '';
  useUnsaved(!isEmpty);
  const send = () => {
    if (isEmpty || say.isPending || seenBy) return;
    say.mutate({ text, circle }, { onSuccess: () => setText('') });
  };
  const submit = (event: FormEvent) => {
    event.preventDefault();
    event.stopPropagation();
    send();
  };
  return (
    <form onSubmit={submit} className="no-print grid gap-2" aria-label="Say something">
      <Field label="Your comment">
        {(ids) => (
          <textarea
            {...ids}
            className="field"
            rows={3}
            maxLength={most}
            value={text}
            onChange={(event) => setText(event.target.value)}
            onKeyDown={(event) => {
              if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) send();
            }}
          />
        )}
      </Field>
      <CircleChoice circles={writes} chosen={circle} onChoose={setChosen} />
      {say.isError && <Notice kind="fault">{problemText(say.error)}</Notice>}
      <div className="flex flex-wrap items-center gap-3">
        <Button
          type="submit"
          small
          weight={circle === 'forAll' ? 'main' : 'plain'}
          disabled={isEmpty || seenBy || say.isPending}
        >
          {writes.length > 1 ? words[circle] : 'Send'}
        </Button>
        {circle === 'amongUs' && writes.length === 1 && (
          <span className="text-sm text-soft">Only those among you read it.</span>
        )}
        {seenBy && <span className="text-sm text-soft">Seen by shows the portal and changes nothing.</span>}
      </div>
    </form>
  );
}
