import { useState } from 'react';
import { mailProblem, mailValues, mailWords } from '../../../core/people/mails';
import type { MailKind, MailWords } from '../../../core/mail/mail-words';
import { useBenchAction } from '../../client/builder';
import { problemText } from '../../client/http';
import { usePreview } from '../../client/people';
import { AccordionItem } from '../../ui/Accordion';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Notice } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { MailShown } from './MailShown';

const labels: Record<MailKind, string> = {
  invitation: 'Invitation',
  reminder: 'Reminder',
  code: 'Code to sign in',
  forgotten: 'Link to a new password',
  approval: 'Request agreed to',
  'sign-up invitation': 'Sign-up: invitation',
  'sign-up': 'Sign-up: is it your address?',
  'known already': 'Sign-up: known already',
  'changed address': 'Address changed',
};

/** The words of one mail, with what it looks like for whom Seen by shows. */
export function MailEditor({ kind }: { kind: MailKind }) {
  const { draft, catalogue } = useBench();
  const words = mailWords(draft, kind);
  const problem = mailProblem(draft, catalogue, kind, words);
  return (
    <AccordionItem
      id={kind}
      label={labels[kind]}
      sentence={
        <>
          <strong>{labels[kind]}</strong>: <span className="text-soft">{words.subject}</span>
          {draft.mails?.[kind] === undefined && <span className="text-soft"> · our own words</span>}
          {problem !== null && <span className="text-iron"> · can&apos;t be written</span>}
        </>
      }
    >
      <Words kind={kind} words={words} problem={problem} />
    </AccordionItem>
  );
}

function Words({ kind, words, problem }: { kind: MailKind; words: MailWords; problem: string | null }) {
  const { draft, edit } = useBench();
  const [fault, setFault] = useState<string | null>(null);
  const { needed, also } = mailValues[kind];
  const set = async (next: MailWords) => {
    if (next.subject.trim() === '' || next.text.trim() === '') return setFault('A mail needs a subject and words.');
    setFault(null);
    await edit(`Word the ${labels[kind].toLowerCase()}`, (changed) => {
      (changed.mails ??= {})[kind] = next;
    });
  };
  return (
    <>
      {(fault ?? problem) !== null && <Notice kind="fault">{fault ?? problem}</Notice>}
      <Field label="Subject">
        {(ids) => (
          <input
            className="field"
            {...ids}
            key={words.subject}
            defaultValue={words.subject}
            maxLength={200}
            onBlur={(event) => {
              if (event.target.value !== words.subject) void set({ ...words, subject: event.target.value });
            }}
          />
        )}
      </Field>
      <Field
        label="Words, in Markdown"
        hint={
          <>
            Values:{' '}
            {['name', 'organisation', 'email', 'portal', ...needed, ...also].map((each) => `{{${each}}}`).join(' ')},
            and columns of a roster as {'{{'}
            {draft.rosters[0] ? `${draft.rosters[0].table}.${draft.rosters[0].name}` : 'table.column'}
            {'}}'}.
          </>
        }
      >
        {(ids) => (
          <textarea
            className="field font-code"
            rows={9}
            {...ids}
            key={words.text}
            defaultValue={words.text}
            maxLength={10_000}
            onBlur={(event) => {
              if (event.target.value !== words.text) void set({ ...words, text: event.target.value });
            }}
          />
        )}
      </Field>
      {draft.mails?.[kind] !== undefined && (
        <div>
          <Button
            small
            onClick={() =>
              void edit(`Give the ${labels[kind].toLowerCase()} our own words`, (changed) => {
                delete changed.mails?.[kind];
                if (changed.mails && Object.keys(changed.mails).length === 0) delete changed.mails;
              })
            }
          >
            Back to our own words
          </Button>
        </div>
      )}
      {problem === null && <Preview kind={kind} words={words} />}
    </>
  );
}

function Preview({ kind, words }: { kind: MailKind; words: MailWords }) {
  const { slug, person } = useBench();
  const member = typeof person?.id === 'number' ? person.id : null;
  const preview = usePreview(slug, { kind, member, words });
  const send = useBenchAction(slug, 'POST /mails/try');
  if (member === null)
    return <p className="text-soft">Choose a member in Seen by, and the mail is shown here as they would get it.</p>;
  return (
    <div className="grid gap-2">
      <div className="flex flex-wrap items-center gap-3">
        <span className="flex-1">As {person!.name} would get it; links and codes lead nowhere here.</span>
        <Button small disabled={send.isPending} onClick={() => send.mutate({ body: { kind, member } })}>
          Send it to me
        </Button>
      </div>
      {send.isSuccess && <Notice kind="say">It is on its way to you. The outbox says what became of it.</Notice>}
      {send.isError && <Notice kind="fault">{problemText(send.error)}</Notice>}
      {preview.isError && <Notice kind="fault">{problemText(preview.error)}</Notice>}
      {preview.data && <MailShown subject={preview.data.subject} html={preview.data.html} />}
    </div>
  );
}
