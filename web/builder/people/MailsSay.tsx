import { useState } from 'react';
import type { MailKind } from '../../../core/mail/mail-words';
import { Accordion } from '../../ui/Accordion';
import { MailEditor } from './MailEditor';

/** The words of some mails, one of them open at a time. */
export function MailsSay({ kinds }: { kinds: readonly MailKind[] }) {
  const [open, setOpen] = useState('');
  return (
    <section aria-label="What the mails say" className="grid gap-2">
      <h2 className="text-base">What the mails say</h2>
      <Accordion open={open} onOpen={setOpen}>
        {kinds.map((kind) => (
          <MailEditor key={kind} kind={kind} />
        ))}
      </Accordion>
    </section>
  );
}
