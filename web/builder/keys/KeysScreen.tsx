import { useState } from 'react';
import { Link } from 'react-router';
import { problemText } from '../../client/http';
import { useKeys, useKeyWork, type KeyInfo } from '../../client/keys';
import { Answered } from '../../records/Answered';
import { minuteText } from '../../records/member-words';
import { Button, buttonLook } from '../../ui/Button';
import { DataTable, Unseen } from '../../ui/DataTable';
import { Dialog } from '../../ui/Dialog';
import { Notice } from '../../ui/Notice';
import { Question } from '../../ui/Question';
import { useBench } from '../bench/bench-context';
import { StageHead } from '../bench/StageFrame';
import { MakeKey } from './MakeKey';

/** After so long a key that was replaced ends, in hours. */
const overlap = 24;

/** Keys by which programs work as the portal's services. */
export function KeysScreen() {
  const { slug, draft, to } = useBench();
  const keys = useKeys(slug);
  const [making, setMaking] = useState(false);
  const [told, setTold] = useState<string | null>(null);
  const hasServices = draft.roles.some((role) => role.for === 'services');
  return (
    <>
      <StageHead title="Keys" />
      <div className="grid gap-4 p-4">
        <p className="max-w-160 text-soft">
          A program with a key works as one of the portal’s services: it sees and does what that role sees and does,
          under what is published, and nothing else. It asks at{' '}
          <code className="font-mono text-sm">/api/v1/portals/{slug}</code>; what it finds there stands in its own
          document, at <code className="font-mono text-sm">/openapi.json</code> there for programs, and at{' '}
          <code className="font-mono text-sm">/reference</code> as a page to read and keep.
        </p>
        {told !== null && <ToldOnce told={told} onDone={() => setTold(null)} />}
        {hasServices ? (
          <Dialog
            title="A key"
            open={making}
            onOpenChange={setMaking}
            trigger={
              <Button small className="justify-self-start">
                + key
              </Button>
            }
          >
            <MakeKey
              onMade={(key) => {
                setMaking(false);
                setTold(key);
              }}
            />
          </Dialog>
        ) : (
          <Notice kind="say" action={<Link to={to('people', 'roles')}>Go there</Link>}>
            A key is of a role for services. Make one first.
          </Notice>
        )}
        <Answered answer={keys} lines={4}>
          {({ keys: all }) =>
            all.length === 0 ? (
              <p className="text-soft">There is no key yet.</p>
            ) : (
              <DataTable
                label="Keys"
                framed
                head={[
                  'For',
                  'Works as',
                  'Begins with',
                  'Last used',
                  'Ends',
                  <Unseen key="do">What can be done</Unseen>,
                ]}
              >
                {all.map((key) => (
                  <KeyRow key={key.id} info={key} onTold={setTold} />
                ))}
              </DataTable>
            )
          }
        </Answered>
      </div>
    </>
  );
}

/** The key itself: it is shown now and never again. */
function ToldOnce({ told, onDone }: { told: string; onDone: () => void }) {
  const [copied, setCopied] = useState(false);
  return (
    <section aria-label="The new key" className="grid max-w-200 gap-2 rounded-stone border border-lichen bg-paper p-4">
      <p>
        <strong>Take it now.</strong> It is shown this once: we keep only what it takes to know it again.
      </p>
      <code data-testid="new-key" className="rounded-stone bg-sunk p-2 font-mono text-sm break-all">
        {told}
      </code>
      <div className="flex items-center gap-2">
        <Button small onClick={() => void navigator.clipboard.writeText(told).then(() => setCopied(true))}>
          Copy
        </Button>
        <Button small weight="quiet" onClick={onDone}>
          I have it
        </Button>
        <span role="status">{copied ? 'Copied.' : ''}</span>
      </div>
    </section>
  );
}

function KeyRow({ info, onTold }: { info: KeyInfo; onTold: (key: string) => void }) {
  const { slug, draft, state } = useBench();
  const { replace, end } = useKeyWork(slug);
  const role = draft.roles.find(({ id }) => id === info.role)?.name ?? 'a role that is gone';
  const failed = replace.error ?? end.error;
  return (
    <tr className={info.holds ? '' : 'text-soft'}>
      <td>
        {info.name}
        <span className="block text-sm text-soft">
          {[
            ...(info.addresses.length > 0 ? [`from ${info.addresses.join(', ')}`] : []),
            `${info.aMinute.toLocaleString()} a minute`,
          ].join(' · ')}
        </span>
      </td>
      <td>{role}</td>
      <td>
        <code className="font-mono text-sm">{info.beginning} …</code>
        <span className="block text-sm text-soft">by {info.madeBy.replace(/ <.*$/, '')}</span>
      </td>
      <td>
        {info.usedAt === null ? 'never' : minuteText(info.usedAt)}
        {info.usedFrom && <span className="block text-sm text-soft">from {info.usedFrom}</span>}
      </td>
      <td>
        {info.endsAt === null ? 'never' : info.holds ? minuteText(info.endsAt) : `ended ${minuteText(info.endsAt)}`}
      </td>
      <td>
        {info.holds && (
          <div className="flex flex-wrap justify-end gap-2">
            {state.publishedVersion !== null && (
              <a
                className={buttonLook('plain', true)}
                href={`/api/builder/portals/${slug}/keys/${info.id}/reference`}
                target="_blank"
                rel="noreferrer"
                aria-label={`Reference of ${info.name}`}
              >
                Reference
              </a>
            )}
            <Question
              title={`Replace ${info.name}?`}
              says={<p>Another key is made, and this one holds for {overlap} hours more.</p>}
              keep="Keep it"
              go="Replace it"
              first="go"
              onGo={() => replace.mutate({ key: info.id, hours: overlap }, { onSuccess: ({ key }) => onTold(key) })}
              trigger={
                <Button small disabled={replace.isPending} aria-label={`Replace ${info.name}`}>
                  Replace
                </Button>
              }
            />
            <Question
              title={`End ${info.name}?`}
              says={<p>The next request by it is refused. It can’t be taken back.</p>}
              keep="Keep it"
              go="End it"
              onGo={() => end.mutate(info.id)}
              trigger={
                <Button small weight="danger" disabled={end.isPending} aria-label={`End ${info.name}`}>
                  End
                </Button>
              }
            />
          </div>
        )}
        {failed && <Notice kind="fault">{problemText(failed)}</Notice>}
      </td>
    </tr>
  );
}
