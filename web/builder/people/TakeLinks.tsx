import { useState } from 'react';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { counted } from '../../../core/text/counted';
import { bench } from '../../client/bench';
import { problemText } from '../../client/http';
import { useInvitationCount, type InvitationOrder } from '../../client/people';
import { saveText } from '../../client/save-text';
import { Button } from '../../ui/Button';
import { Notice } from '../../ui/Notice';
import { Question } from '../../ui/Question';
import { useBench } from '../bench/bench-context';

/** The links of an order as a file, for another program that sends mails. */
export function TakeLinks({ order }: { order: InvitationOrder }) {
  const { slug, state } = useBench();
  const client = useQueryClient();
  const many = useInvitationCount(slug, order).data?.queued ?? 0;
  const [taken, setTaken] = useState<number | null>(null);
  const take = useMutation({
    mutationFn: () => bench(slug)('POST /invitations/links', { body: order }),
    onSuccess: ({ text, queued }) => {
      saveText(`links-${slug}.csv`, 'text/csv', text);
      setTaken(queued);
      return client.invalidateQueries({ queryKey: ['builder', slug] });
    },
  });
  const links = counted(many, 'link');
  return (
    <>
      <div>
        <Question
          trigger={
            <Button small weight="quiet" disabled={take.isPending || many === 0 || state.publishedVersion === null}>
              Take the links as a file instead
            </Button>
          }
          title={`Take out ${links}?`}
          says={
            <p>
              For another program to send. Whoever holds a link comes in by it as that member, once: give the file to
              nobody else, and delete it when they are sent. Those in it count as invited from now on.
            </p>
          }
          keep="Leave them"
          go={`Take out ${links}`}
          first="go"
          onGo={() => take.mutate()}
        />
      </div>
      {take.isError && <Notice kind="fault">{problemText(take.error)}</Notice>}
      {taken !== null && <Notice kind="say">{counted(taken, 'link')} taken out. Nothing was sent.</Notice>}
    </>
  );
}
