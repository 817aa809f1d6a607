import { useState, type FormEvent } from 'react';
import type { MemberState } from '../../core/people/member-state';
import { problemText } from '../../web/client/http';
import { useStewardAct, type stewards } from '../../web/client/stewards';
import { usePlace } from '../../web/place/place';
import { Button } from '../../web/ui/Button';
import { Dialog } from '../../web/ui/Dialog';
import { Notice } from '../../web/ui/Notice';
import { ReasonField } from '../../web/ui/ReasonDialog';
import type { ShowProps } from '../show';

type PeopleInfo = ShowProps<'people'>['section'];

/** One of those who are looked after. */
interface Person {
  id: string;
  name: string;
  state: MemberState;
  invitedAt: string | null;
}

type What = 'invite' | 'invite again' | 'send a password link' | 'end sessions' | 'suspend' | 'let in again';

/** What is to be done for whom. */
export interface ActOn {
  what: What;
  word: string;
  person: Person;
}

/** What can be done for somebody as they stand. */
export function actsFor({ may }: PeopleInfo, person: Person): ActOn[] {
  const isIn = person.state === 'active';
  const isShut = person.state === 'suspended';
  const acts: [What, string, boolean][] = [
    ['invite', 'Invite …', may.includes('invite') && person.state === 'known'],
    ['invite again', 'Invite again …', may.includes('invite') && person.state === 'invited'],
    ['send a password link', 'Send a link to a new password …', may.includes('send password links') && isIn],
    ['end sessions', 'End their sessions …', may.includes('end sessions') && isIn],
    ['suspend', 'Suspend …', may.includes('suspend') && !isShut && person.state !== 'gone'],
    ['let in again', 'Let in again …', may.includes('suspend') && isShut],
  ];
  return acts.filter(([, , can]) => can).map(([what, word]) => ({ what, word, person }));
}

const says: Record<What, string> = {
  invite: 'A mail with a link to come in goes out at once. It can’t be called back.',
  'invite again': 'Another mail with a new link goes out at once. It can’t be called back.',
  'send a password link':
    'A mail with a link to a new password goes out at once; their password stays until they use it.',
  'end sessions': 'They are signed out everywhere, at once, and can sign in again.',
  suspend: 'They are signed out at once and can’t come in any more, until they are let in again. Their records stay.',
  'let in again': 'They can sign in again, as before.',
};

const titles: Record<What, (name: string) => string> = {
  invite: (name) => `Invite ${name}`,
  'invite again': (name) => `Invite ${name} again`,
  'send a password link': (name) => `Send ${name} a link`,
  'end sessions': (name) => `End the sessions of ${name}`,
  suspend: (name) => `Suspend ${name}`,
  'let in again': (name) => `Let ${name} in again`,
};

/** Asks before something is done for somebody, and does it. */
export function PersonActs({
  section,
  act: { what, person },
  onClose,
  onDone,
}: {
  section: PeopleInfo;
  act: ActOn;
  onClose: () => void;
  onDone: (words: string) => void;
}) {
  const { base } = usePlace();
  const [reason, setReason] = useState('');
  const doing = useStewardAct(base, (ask: ReturnType<typeof stewards>, why: string) =>
    does(ask, what, { steward: section.steward, id: person.id }, why),
  );
  const submit = (event: FormEvent) => {
    event.preventDefault();
    doing.mutate(reason, { onSuccess: (words) => onDone(`${person.name}: ${words}`) });
  };
  return (
    <Dialog title={titles[what](person.name)} says={says[what]} open onOpenChange={(open) => !open && onClose()}>
      <form onSubmit={submit} className="grid gap-3">
        {what === 'suspend' && <ReasonField reason={reason} onChange={setReason} />}
        {doing.isError && <Notice kind="fault">{problemText(doing.error)}</Notice>}
        <div>
          <Button type="submit" weight={what === 'suspend' ? 'danger' : 'main'} disabled={doing.isPending}>
            {titles[what](person.name)}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

const skippedWords: Record<string, string> = {
  'is gone': 'is no member any more, so nothing was sent.',
  'is suspended': 'is suspended, so nothing was sent.',
  'has been in': 'has been in already, so nothing was sent.',
  'was invited': 'was invited in the meantime, so nothing was sent.',
};

/** Does it, and says what came of it. */
async function does(
  ask: ReturnType<typeof stewards>,
  what: What,
  params: { steward: string; id: string },
  reason: string,
): Promise<string> {
  switch (what) {
    case 'invite':
    case 'invite again': {
      const body = { again: what === 'invite again' };
      const { outcome } = await ask('POST /people/:steward/:id/invitation', { params, body });
      const [why] = Object.keys(outcome.skipped);
      return why === undefined ? 'the invitation is on its way.' : (skippedWords[why] ?? 'nothing was sent.');
    }
    case 'send a password link':
      await ask('POST /people/:steward/:id/password-link', { params });
      return 'the link is on its way.';
    case 'end sessions': {
      const { ended } = await ask('DELETE /people/:steward/:id/sessions', { params });
      return ended === 0 ? 'was not signed in anywhere.' : 'is signed out everywhere.';
    }
    case 'suspend':
      await ask('PUT /people/:steward/:id/suspension', { params, body: { reason } });
      return 'is suspended and signed out.';
    case 'let in again':
      await ask('DELETE /people/:steward/:id/suspension', { params });
      return 'can sign in again.';
  }
}
