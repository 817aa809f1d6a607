import { useMutation, useQueryClient } from '@tanstack/react-query';
import { bench, type BenchApi } from '../../client/bench';
import { problemText } from '../../client/http';
import { minuteText } from '../../records/member-words';
import { Button } from '../../ui/Button';
import { DataTable, Unseen } from '../../ui/DataTable';
import { Notice } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';

type Request = BenchApi['GET /sign-ups']['answer']['requests'][number];

const stateWords: Partial<Record<Request['state'], string>> = { waiting: 'waits', done: 'came in', refused: 'refused' };

/** Who asked to come in. Answering acts at once, and can't be undone. */
export function SignUpRequests({ requests }: { requests: Request[] }) {
  if (requests.length === 0) return null;
  return (
    <section aria-label="Who asked" className="grid gap-2">
      <h2 className="text-base">Who asked</h2>
      <DataTable framed label="Who asked to come in" head={['Who', 'By', 'State', <Unseen key="do">Answer</Unseen>]}>
        {requests.map((each) => (
          <Row key={each.id} request={each} />
        ))}
      </DataTable>
    </section>
  );
}

function Row({ request: { id, email, values, signUp, madeAt, state, decided } }: { request: Request }) {
  const { slug } = useBench();
  const client = useQueryClient();
  const answer = useMutation({
    mutationFn: (agree: boolean) =>
      bench(slug)(agree ? 'POST /sign-ups/:request/agree' : 'POST /sign-ups/:request/refuse', {
        params: { request: id },
      }),
    onSettled: () => client.invalidateQueries({ queryKey: ['builder', slug, 'sign-ups'] }),
  });
  return (
    <tr className="align-top">
      <td>
        <strong className="break-all">{email}</strong>
        <div className="text-sm text-soft">{values.map(({ label, value }) => `${label}: ${value}`).join(', ')}</div>
        {answer.isError && <Notice kind="fault">{problemText(answer.error)}</Notice>}
      </td>
      <td>
        {signUp}
        <div className="text-sm text-soft">{minuteText(madeAt)}</div>
      </td>
      <td>
        {stateWords[state] ?? state}
        {decided && <div className="text-sm text-soft">{decided}</div>}
      </td>
      <td className="text-right">
        {state === 'waiting' && (
          <>
            <Button small disabled={answer.isPending} onClick={() => answer.mutate(true)}>
              Let in<span className="sr-only"> {email}</span>
            </Button>
            <Button small weight="quiet" disabled={answer.isPending} onClick={() => answer.mutate(false)}>
              Refuse<span className="sr-only"> {email}</span>
            </Button>
          </>
        )}
      </td>
    </tr>
  );
}
