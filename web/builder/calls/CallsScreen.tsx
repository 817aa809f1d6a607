import { useState } from 'react';
import { addressProblem, type OutsideAddress } from '../../../core/definition/outside-address';
import { problemText } from '../../client/http';
import { useNewSecret, useTryAddress } from '../../client/calls';
import { Button } from '../../ui/Button';
import { Dialog } from '../../ui/Dialog';
import { Field } from '../../ui/Field';
import { Notice } from '../../ui/Notice';
import { Question } from '../../ui/Question';
import { Rule, RuleList, useOpenRule } from '../access/RuleList';
import { useAddress } from '../bench/address';
import { useBench } from '../bench/bench-context';
import { StageHead } from '../bench/StageFrame';
import { addAddress, callersOf } from './address-edits';
import { AddressForm } from './AddressForm';
import { BroughtList } from './BroughtList';
import { CallList } from './CallList';
import { OneCall } from './OneCall';

/** What actions call outside, and what became of each call. */
export default function CallsScreen() {
  const { draft, edit } = useBench();
  const { setOpen } = useOpenRule();
  const [params] = useAddress();
  const [making, setMaking] = useState(false);
  const addresses = draft.addresses ?? [];
  const call = Number(params.get('call')) || null;
  const make = (name: string, url: string) => {
    let made = '';
    void edit(`Add the address ${name}`, (next) => {
      made = addAddress(next, name, url);
    }).then((problem) => problem === null && setOpen(made));
    setMaking(false);
  };
  return (
    <>
      <StageHead title="Calls" />
      <div className="grid gap-4 p-4">
        <p className="max-w-160 text-soft">
          Actions tell services outside what was done, once it is kept: each call is signed, and made again until it is
          answered, always under the same id. From an address a file can be brought each day as well.
        </p>
        {addresses.length > 0 && (
          <RuleList>
            {addresses.map((address) => (
              <AddressRule key={address.id} address={address} />
            ))}
          </RuleList>
        )}
        <Dialog
          title="Another address"
          open={making}
          onOpenChange={setMaking}
          trigger={
            <Button small className="justify-self-start">
              + address
            </Button>
          }
        >
          <AddressForm word="Add it" onMake={make} />
        </Dialog>
        <BroughtList />
        {call === null ? <CallList /> : <OneCall key={call} id={call} />}
      </div>
    </>
  );
}

function AddressRule({ address }: { address: OutsideAddress }) {
  const { draft, edit } = useBench();
  const callers = callersOf(draft, address.id);
  const brought = (draft.brought ?? []).filter((each) => each.address === address.id).map(({ name }) => name);
  const uses = [
    ...(callers.length > 0 || brought.length === 0
      ? [`called by ${callers.length > 0 ? callers.join(', ') : 'no action yet'}`]
      : []),
    ...(brought.length > 0 ? [`from where ${brought.join(', ')} ${brought.length > 1 ? 'are' : 'is'} brought`] : []),
  ];
  return (
    <Rule
      id={address.id}
      kind="Address"
      sentence={
        <>
          <strong>{address.name}</strong>, {uses.join('; ')}
        </>
      }
      loses={
        callers.length > 0
          ? `${callers.join(', ')} can't be done any more, and calls that wait are given up.`
          : brought.length > 0
            ? `${brought.join(', ')} can't be brought any more.`
            : 'No action calls it.'
      }
      onRemove={() =>
        void edit(`Remove the address ${address.name}`, (next) => {
          next.addresses = next.addresses!.filter(({ id }) => id !== address.id);
          if (next.addresses.length === 0) delete next.addresses;
        })
      }
    >
      <AddressEdit address={address} />
    </Rule>
  );
}

function AddressEdit({ address }: { address: OutsideAddress }) {
  const { edit } = useBench();
  const [fault, setFault] = useState<string | null>(null);
  const change = (label: string, recipe: (next: OutsideAddress) => void) =>
    void edit(label, (next) => recipe(next.addresses!.find(({ id }) => id === address.id)!));
  return (
    <div className="grid gap-4">
      <Field label="What it is called">
        {(ids) => (
          <input
            className="field max-w-80"
            {...ids}
            key={address.name}
            defaultValue={address.name}
            maxLength={60}
            onBlur={(event) => {
              const typed = event.target.value.trim();
              if (typed && typed !== address.name)
                change(`Call an address ${typed}`, (next) => {
                  next.name = typed;
                });
            }}
          />
        )}
      </Field>
      <Field label="Its address" fault={fault} hint="Calls that wait go to what is published.">
        {(ids) => (
          <input
            className="field max-w-160 font-mono"
            type="url"
            {...ids}
            key={address.url}
            defaultValue={address.url}
            maxLength={500}
            onBlur={(event) => {
              const typed = event.target.value.trim();
              const problem = addressProblem(typed);
              setFault(problem);
              if (problem === null && typed !== address.url)
                change(`Set the address of ${address.name}`, (next) => {
                  next.url = typed;
                });
            }}
          />
        )}
      </Field>
      <Signing address={address} />
    </div>
  );
}

/** What its calls are signed with, and whether it answers. */
function Signing({ address: { id, name } }: { address: OutsideAddress }) {
  const { slug } = useBench();
  const made = useNewSecret(slug, id);
  const trying = useTryAddress(slug, id);
  return (
    <div className="grid gap-2">
      <p className="max-w-160 text-sm text-soft">
        Calls carry <code>webhook-id</code>, <code>webhook-timestamp</code> and <code>webhook-signature</code>, after
        the Standard Webhooks specification. Whoever takes them checks the signature by the secret.
      </p>
      <span className="flex flex-wrap gap-2">
        <Button small disabled={trying.isPending} onClick={() => trying.mutate({})}>
          {trying.isPending ? 'Waiting for its answer …' : 'Try it'}
        </Button>
        <Question
          trigger={
            <Button small disabled={made.isPending}>
              Make a secret …
            </Button>
          }
          title={`Another secret for ${name}?`}
          says="It is shown once. What calls were signed with until now holds for a day longer beside it."
          keep="Leave it as it is"
          go="Make it"
          onGo={() => made.mutate()}
        />
      </span>
      {trying.isError && <Notice kind="fault">{problemText(trying.error)}</Notice>}
      {trying.data && (
        <Notice kind={trying.data.fine ? 'say' : 'fault'}>
          <span className="break-words whitespace-pre-wrap">{trying.data.words}</span>
        </Notice>
      )}
      {made.isError && <Notice kind="fault">{problemText(made.error)}</Notice>}
      {made.data && (
        <Notice kind="say">
          Its secret, shown this once: <code className="break-all">{made.data.secret}</code>
        </Notice>
      )}
    </div>
  );
}
