import { useDeferredValue, useState } from 'react';
import { Download, ShieldCheck } from 'lucide-react';
import { counted } from '../../../core/text/counted';
import { problemText } from '../../client/http';
import { logFile, useLog, useProof, type LogAsked } from '../../client/log';
import { DateInput } from '../../records/DateInput';
import { minuteText } from '../../records/member-words';
import { Button, buttonLook } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Notice, Skeleton } from '../../ui/Notice';
import { Select } from '../../ui/Select';
import { useBench } from '../bench/bench-context';
import { StageHead } from '../bench/StageFrame';
import { LogTable } from '../LogTable';

const everything: LogAsked = { search: '', what: '', from: null, to: null };
const isDay = (text: string) => /^\d{4}-\d\d-\d\d$/.test(text);

/** What was done to the portal, and who read as whom: looked through, taken out, and proven. */
export function AuditLog() {
  const { slug } = useBench();
  const [asked, setAsked] = useState(everything);
  const log = useLog(slug, useDeferredValue(asked));
  const change = (more: Partial<LogAsked>) => setAsked((before) => ({ ...before, ...more }));
  const pages = log.data?.pages ?? [];
  const entries = pages.flatMap((page) => page.entries);
  const kinds = pages[0]?.kinds ?? [];
  return (
    <>
      <StageHead title="Audit log">
        <a className={buttonLook('plain', true)} href={logFile(slug, asked)} download>
          <Download size={15} aria-hidden /> Take out as CSV
        </a>
      </StageHead>
      <div className="grid gap-4 p-4">
        <Proof />
        <form role="search" className="flex flex-wrap items-start gap-3" onSubmit={(event) => event.preventDefault()}>
          <Field label="Words">
            {(ids) => (
              <input
                className="field w-48"
                {...ids}
                maxLength={200}
                value={asked.search}
                onChange={(event) => change({ search: event.target.value })}
              />
            )}
          </Field>
          <Field label="What">
            {(ids) => (
              <Select className="max-w-60" {...ids} value={asked.what} onPick={(what) => change({ what })}>
                <option value="">anything</option>
                {kinds.map((kind) => (
                  <option key={kind} value={kind}>
                    {kind}
                  </option>
                ))}
              </Select>
            )}
          </Field>
          <Day label="From" onDay={(from) => change({ from })} />
          <Day label="To" onDay={(to) => change({ to })} />
        </form>
        {log.isPending && <Skeleton />}
        {log.isError && <Notice kind="fault">{problemText(log.error)}</Notice>}
        {log.data && entries.length === 0 && <p className="text-soft">There is no such line.</p>}
        {entries.length > 0 && <LogTable entries={entries} />}
        {log.hasNextPage && (
          <Button
            small
            className="justify-self-start"
            disabled={log.isFetchingNextPage}
            onClick={() => void log.fetchNextPage()}
          >
            Show earlier ones
          </Button>
        )}
      </div>
    </>
  );
}

/** A day, told once it is whole. */
function Day({ label, onDay }: { label: string; onDay: (day: string | null) => void }) {
  const [typed, setTyped] = useState('');
  return (
    <Field label={label}>
      {(ids) => (
        <DateInput
          label={label}
          value={typed}
          onChange={(text) => {
            setTyped(text);
            if (text === '' || isDay(text)) onDay(text === '' ? null : text);
          }}
          inputProps={ids}
          className="field w-36"
        />
      )}
    </Field>
  );
}

const faultWords = {
  changed: 'was changed',
  missing: 'is gone',
  added: 'was put in later',
  'seal broken': 'is broken',
} as const;

/** Whether the log is as it was written. */
function Proof() {
  const { slug } = useBench();
  const proof = useProof(slug);
  const { data } = proof;
  return (
    <section aria-label="Proof" className="grid justify-items-start gap-2">
      <p className="max-w-160 text-soft">
        Lines are sealed in a chain under a key that is not in the database: none can be changed, put in or taken out
        unseen.
      </p>
      <Button small disabled={proof.isFetching} onClick={() => void proof.refetch()}>
        <ShieldCheck size={15} aria-hidden /> {proof.isFetching ? 'Looking …' : 'Prove it'}
      </Button>
      <div role="status" className="grid gap-1">
        {proof.isError && <Notice kind="fault">{problemText(proof.error)}</Notice>}
        {data && data.faults.length === 0 && (
          <Notice kind="say">
            {counted(data.lines, 'sealed line')} of this installation, each of them as it was sealed, under{' '}
            {counted(data.seals, 'seal')}; {data.unsealed} too new to be sealed.
            {data.head && (
              <>
                {' '}
                The newest seal is {data.head.number}, of {minuteText(data.head.sealedAt)}:{' '}
                <code className="font-mono text-sm break-all">{data.head.digest}</code>. Kept elsewhere, it tells
                whether the end was cut off.
              </>
            )}
          </Notice>
        )}
        {data && data.faults.length > 0 && (
          <Notice kind="fault">
            <p>The log is not as it was sealed.</p>
            <ul>
              {data.faults.map(({ what, number, at }) => (
                <li key={`${what}/${number}`}>
                  {what === 'seal broken' ? 'Seal' : 'Line'} {number}, of {minuteText(at)}, {faultWords[what]}.
                </li>
              ))}
            </ul>
          </Notice>
        )}
      </div>
    </section>
  );
}
