import { problemText } from '../../web/client/http';
import { useAnswerRequest, useRequests, type RequestInfo } from '../../web/client/stewards';
import { usePlace } from '../../web/place/place';
import { minuteText } from '../../web/records/member-words';
import { Button } from '../../web/ui/Button';
import { Notice, Skeleton } from '../../web/ui/Notice';
import { Question } from '../../web/ui/Question';
import type { ShowProps } from '../show';

/** Those who ask to come in, with what they filled in, to be agreed to or not. */
export default function RequestsShow({ section }: ShowProps<'requests'>) {
  const { base } = usePlace();
  const requests = useRequests(base);
  if (!section.open) return <Notice kind="say">There are no requests here that you could answer.</Notice>;
  if (requests.isPending) return <Skeleton lines={3} />;
  if (requests.isError) return <Notice kind="fault">{problemText(requests.error)}</Notice>;
  return requests.data.length === 0 ? (
    <Notice kind="say">Nobody waits for an answer.</Notice>
  ) : (
    <ul className="rounded-stone border border-line bg-paper" aria-label="Requests">
      {requests.data.map((each) => (
        <Request key={each.id} request={each} />
      ))}
    </ul>
  );
}

function Request({ request }: { request: RequestInfo }) {
  const { base, seenBy } = usePlace();
  const answer = useAnswerRequest(base);
  return (
    <li className="flex flex-wrap items-start gap-3 border-b border-line px-3 py-2.5 last:border-0">
      <div className="grid min-w-0 grow basis-60 gap-0.5">
        <span className="font-semibold break-all">{request.email}</span>
        <span className="flex flex-wrap gap-x-4 text-sm">
          {request.values.map(({ label, value }) => (
            <span key={label} className="break-words">
              <span className="text-soft">{label}:</span> {value}
            </span>
          ))}
        </span>
        <span className="text-sm text-soft">
          {request.signUp}, {minuteText(request.madeAt)}
        </span>
        {answer.isError && <Notice kind="fault">{problemText(answer.error)}</Notice>}
      </div>
      <span className="flex gap-2">
        <Question
          trigger={
            <Button small weight="main" disabled={answer.isPending || seenBy}>
              Let in<span className="sr-only"> {request.email}</span>
            </Button>
          }
          title={`Let ${request.email} in?`}
          says="Their row is made, and a mail with a link to come in goes out at once."
          keep="Not yet"
          go="Let in"
          first="go"
          onGo={() => answer.mutate({ id: request.id, agree: true })}
        />
        <Question
          trigger={
            <Button small disabled={answer.isPending || seenBy}>
              Refuse<span className="sr-only"> {request.email}</span>
            </Button>
          }
          title={`Refuse ${request.email}?`}
          says="Nothing is sent to them. They can ask once more by the link."
          keep="Not yet"
          go="Refuse"
          onGo={() => answer.mutate({ id: request.id, agree: false })}
        />
      </span>
    </li>
  );
}
