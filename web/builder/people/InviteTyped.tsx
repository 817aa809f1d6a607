import { useId, useState } from 'react';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { counted } from '../../../core/text/counted';
import { bench } from '../../client/bench';
import { problemText } from '../../client/http';
import { Button } from '../../ui/Button';
import { Notice } from '../../ui/Notice';
import { Question } from '../../ui/Question';
import { useBench } from '../bench/bench-context';

/** Sends a sign-up's link to addresses that are typed or pasted, each once. */
export function InviteTyped({ signUp }: { signUp: string }) {
  const { slug, state } = useBench();
  const client = useQueryClient();
  const id = useId();
  const [typed, setTyped] = useState('');
  const addresses = [...new Set(typed.split(/[\s,;]+/).filter((each) => each !== ''))];
  const send = useMutation({
    mutationFn: () => bench(slug)('POST /sign-ups/:signUp/invitations', { params: { signUp }, body: { addresses } }),
    onSuccess: ({ outcomes }) => {
      // What could not be sent stays, to be mended.
      setTyped(
        outcomes
          .filter(({ outcome }) => outcome === 'no address' || outcome === 'not of its domains')
          .map(({ address }) => address)
          .join('\n'),
      );
      return client.invalidateQueries({ queryKey: ['builder', slug, 'outbox'] });
    },
  });
  if (state.publishedVersion === null) return null;
  const mails = counted(addresses.length, 'mail');
  const sent = send.data?.outcomes.filter(({ outcome }) => outcome === 'sent').length ?? 0;
  const others = send.data?.outcomes.filter(({ outcome }) => outcome !== 'sent') ?? [];
  return (
    <section aria-label="Send the link" className="grid gap-2">
      <label htmlFor={id} className="font-semibold">
        Send it to these addresses
      </label>
      <textarea
        id={id}
        className="field min-h-20"
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
        placeholder="One on each line"
      />
      <div>
        <Question
          trigger={
            <Button small disabled={send.isPending || addresses.length === 0}>
              Send {mails}
            </Button>
          }
          title={`Send ${mails}?`}
          says="Each with the link, to those who are not known yet and were not written to before. It can’t be undone."
          keep="Send nothing"
          go={`Send ${mails}`}
          first="go"
          onGo={() => send.mutate()}
        />
      </div>
      {send.isError && <Notice kind="fault">{problemText(send.error)}</Notice>}
      {send.data && (
        <Notice kind={others.length > 0 ? 'warn' : 'say'}>
          {counted(sent, 'mail')} on the way.
          {others.length > 0 && (
            <ul className="mt-1 grid gap-0.5">
              {others.map(({ address, outcome }) => (
                <li key={address} className="break-all">
                  {address}: {outcome}
                </li>
              ))}
            </ul>
          )}
        </Notice>
      )}
    </section>
  );
}
