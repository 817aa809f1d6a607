import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';

import { problemText, ServerProblem } from '../../client/http';

import { useBenchAction, useFindings, usePublish, useVersions } from '../../client/builder';
import { usePromises } from '../../client/access';
import { outcomeWords, promiseSentence } from '../access/promise-words';
import { Button, buttonLook } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Notice, Skeleton } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { DefinitionScreen } from '../definition/DefinitionScreen';
import { KeysScreen } from '../keys/KeysScreen';
import { AccessReviews } from './AccessReviews';
import { AuditLog } from './AuditLog';
import { ChangeReport } from './ChangeReport';
import { WhoThen } from './WhoThen';
import { CompareVersion } from './CompareVersion';
import { StageFrame, StageHead } from '../bench/StageFrame';
import { DataTable, Unseen } from '../../ui/DataTable';

/**
 * The draft becomes the next version; earlier ones can be published again; the definition goes out and in as a file.
 */
export default function PublishStage() {
  const { to, object } = useBench();
  const [params] = useSearchParams();
  const part = object ?? 'versions';
  const items = [
    { key: 'versions', label: 'Versions', to: to('publish', 'versions'), current: part === 'versions' },
    { key: 'log', label: 'Audit log', to: to('publish', 'log'), current: part === 'log' },
    { key: 'who-then', label: 'Who could see it', to: to('publish', 'who-then'), current: part === 'who-then' },
    { key: 'reviews', label: 'Access reviews', to: to('publish', 'reviews'), current: part === 'reviews' },
    { key: 'keys', label: 'Keys', to: to('publish', 'keys'), current: part === 'keys' },
    { key: 'definition', label: 'Definition', to: to('publish', 'definition'), current: part === 'definition' },
  ];
  return (
    <StageFrame title="Publish" groups={[{ title: 'Publish', items }]}>
      {part === 'definition' ? (
        <DefinitionScreen />
      ) : part === 'log' ? (
        <AuditLog />
      ) : part === 'who-then' ? (
        <WhoThen />
      ) : part === 'reviews' ? (
        <AccessReviews />
      ) : part === 'keys' ? (
        <KeysScreen />
      ) : (
        <Versions key={params.get('at') ?? ''} />
      )}
    </StageFrame>
  );
}

function Versions() {
  const { slug, state, to, draft, lookAt } = useBench();
  const versions = useVersions(slug);
  const findings = useFindings(slug, state.revision);
  const publish = usePublish(slug);
  const [note, setNote] = useState('');
  const [despite, setDespite] = useState('');
  const broken = publish.error instanceof ServerProblem && publish.error.type === 'promises-broken';
  const wrong = findings.data?.findings.length ?? 0;
  const next = (state.newestVersion ?? 0) + 1;
  const send = (reason: string) =>
    publish.mutate(
      { revision: state.revision, note: note.trim(), despite: reason },
      {
        onSuccess: () => {
          setNote('');
          setDespite('');
        },
      },
    );
  return (
    <>
      <StageHead title="Versions">
        {state.publishedVersion !== null && (
          <a className={buttonLook('plain', true)} href={`/p/${slug}`} target="_blank" rel="noreferrer">
            Open /p/{slug}
          </a>
        )}
      </StageHead>
      <div className="grid gap-6 p-4">
        <form
          className="grid max-w-160 gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            send('');
          }}
        >
          {wrong > 0 && (
            <Notice kind="warn" action={<Link to={to('check')}>Look at them</Link>}>
              {wrong === 1 ? 'One finding is' : `${wrong} findings are`} open.
            </Notice>
          )}
          <Field label={`What is new in version ${next}`} hint="For you and your colleagues, in a sentence">
            {(ids) => (
              <input
                className="field"
                {...ids}
                value={note}
                maxLength={500}
                onChange={(event) => setNote(event.target.value)}
              />
            )}
          </Field>
          <div className="flex items-center gap-3">
            <Button type="submit" weight="main" disabled={publish.isPending}>
              {publish.isPending ? 'Publishing …' : `Publish version ${next}`}
            </Button>
            <span className="text-soft">{draft.portal.name} changes for its members only then.</span>
          </div>
        </form>
        {publish.isError && !broken && <Notice kind="fault">{problemText(publish.error)}</Notice>}
        {publish.isSuccess && (
          <Notice kind="say">
            Version {publish.data.version} is live at{' '}
            <a className="underline" href={`/p/${slug}`}>
              /p/{slug}
            </a>
            .
          </Notice>
        )}
        {broken && (
          <form
            aria-label="Publish all the same"
            className="grid max-w-160 gap-3"
            onSubmit={(event) => {
              event.preventDefault();
              send(despite.trim());
            }}
          >
            <Notice kind="fault" action={<Link to={to('access', '~promises')}>Look at them</Link>}>
              {problemText(publish.error)}
            </Notice>
            <BrokenPromises />
            <Field label="Why it shall be published all the same" hint="It is written in the audit log with your name">
              {(ids) => (
                <input
                  className="field"
                  {...ids}
                  required
                  value={despite}
                  maxLength={500}
                  onChange={(event) => setDespite(event.target.value)}
                />
              )}
            </Field>
            <div>
              <Button type="submit">Publish version {next} all the same</Button>
            </div>
          </form>
        )}
        <ChangeReport />
        {versions.isPending && <Skeleton />}
        {versions.data?.versions.length === 0 && (
          <p className="text-soft">Nothing is published yet; members can't sign in.</p>
        )}
        {versions.data && versions.data.versions.length > 0 && (
          <DataTable label="Versions" head={['Version', 'What is new', 'Published', <Unseen key="do">Actions</Unseen>]}>
            {versions.data.versions.map((version) => (
              <tr key={version.number}>
                <td className="font-semibold">
                  v{version.number}
                  {version.number === versions.data.publishedVersion && (
                    <span className="ml-2 rounded-stone bg-lichen-wash px-1.5 text-sm text-lichen-ink">live</span>
                  )}
                </td>
                <td className="break-words">{version.note || <span className="text-soft">–</span>}</td>
                <td className="text-sm text-soft">
                  {new Date(version.publishedAt).toLocaleString(undefined, {
                    dateStyle: 'medium',
                    timeStyle: 'short',
                  })}
                  <br />
                  {version.publishedBy}
                </td>
                <td className="text-right">
                  {version.outdated !== null ? (
                    <span className="text-sm text-soft">{version.outdated} Make its changes in the draft.</span>
                  ) : (
                    <span className="inline-flex flex-wrap justify-end gap-2">
                      <Button small weight="quiet" onClick={() => lookAt(version.number)}>
                        Seen by<span className="sr-only"> in v{version.number}</span>
                      </Button>
                      {version.number !== versions.data.publishedVersion && (
                        <>
                          <CompareVersion number={version.number} />
                          <Again number={version.number} />
                        </>
                      )}
                    </span>
                  )}
                </td>
              </tr>
            ))}
          </DataTable>
        )}
      </div>
    </>
  );
}

function Again({ number }: { number: number }) {
  const { slug } = useBench();
  const again = useBenchAction(slug, 'POST /versions/:number/publish');
  const [despite, setDespite] = useState('');
  const broken = again.error instanceof ServerProblem && again.error.type === 'promises-broken';
  return (
    <>
      {again.isError && <span className="block text-sm text-iron">{problemText(again.error)}</span>}
      {broken && (
        <form
          aria-label={`Publish v${number} again all the same`}
          className="mb-1 grid justify-items-end gap-1"
          onSubmit={(event) => {
            event.preventDefault();
            again.mutate({ params: { number }, body: { despite: despite.trim() } });
          }}
        >
          <input
            className="field w-64"
            aria-label="Why it shall be published all the same"
            required
            maxLength={500}
            value={despite}
            onChange={(event) => setDespite(event.target.value)}
          />
          <Button small type="submit">
            Publish it all the same
          </Button>
        </form>
      )}
      <Button
        small
        disabled={again.isPending}
        onClick={() => again.mutate({ params: { number }, body: { despite: '' } })}
      >
        Publish v{number} again
      </Button>
    </>
  );
}

/** Which promises are broken, for whom, and by which record. */
function BrokenPromises() {
  const { slug, state, draft, catalogue, to } = useBench();
  const tested = usePromises(slug, state.revision);
  const broken = tested.data?.outcomes.filter((outcome) => !outcome.kept) ?? [];
  return (
    <ul className="grid gap-1">
      {broken.map((outcome) => {
        const promise = draft.promises?.find((each) => each.id === outcome.id);
        return (
          promise && (
            <li key={outcome.id}>
              <Link to={to('access', '~promises')}>{promiseSentence(promise, draft, catalogue)}</Link>{' '}
              <span className="text-soft">{outcomeWords(outcome, promise)}</span>
            </li>
          )
        );
      })}
    </ul>
  );
}
