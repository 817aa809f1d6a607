import { useState } from 'react';
import { useOwnAddress, useSetOwnAddress } from '../../client/face';
import { problemText, ServerProblem } from '../../client/http';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Notice } from '../../ui/Notice';
import { Question } from '../../ui/Question';
import { useBench } from '../bench/bench-context';

/** Where people find the portal, and an address of its own. It holds at once, beside what is published. */
export function OwnAddress() {
  const { slug } = useBench();
  const known = useOwnAddress(slug);
  const save = useSetOwnAddress(slug);
  const [typed, setTyped] = useState<string | null>(null);
  if (!known.data) return known.isError ? <Notice kind="fault">{problemText(known.error)}</Notice> : null;
  const { own, found } = known.data;
  const address = (typed ?? own ?? '').trim().toLowerCase().replace(/\/$/, '');
  const fields = save.error instanceof ServerProblem ? (save.error.body.fields as Record<string, string>) : undefined;
  const fault = save.isError ? (fields?.address ?? problemText(save.error)) : null;
  const keep = (to: string | null) => save.mutate(to, { onSuccess: () => setTyped(null) });
  return (
    <fieldset className="grid gap-2">
      <legend className="text-sm font-semibold">Where it is found</legend>
      <p>
        <a href={found} target="_blank" rel="noreferrer">
          {found}
        </a>
      </p>
      <div className="flex flex-wrap items-start gap-2">
        <Field
          label="An address of its own"
          hint="Let its name lead to this installation first. It holds at once."
          fault={fault}
        >
          {(ids) => (
            <input
              className="field w-80 max-w-full"
              maxLength={300}
              placeholder="https://wells.example.org"
              {...ids}
              value={typed ?? own ?? ''}
              onChange={(event) => setTyped(event.target.value)}
            />
          )}
        </Field>
        <Question
          trigger={
            <Button className="mt-6" disabled={save.isPending || address === (own ?? '')}>
              {address === '' && own !== null ? 'Take it away' : 'Set the address'}
            </Button>
          }
          title={address === '' ? 'Take the own address away?' : `Lead everybody to ${address}?`}
          says={
            address === ''
              ? 'The portal is found at the address of this installation again, and links in mails lead there. ' +
                'Passkeys that were made at its own address no longer open it.'
              : 'Pages of the portal, links in mails and single sign-on lead there from now on; whoever is signed in ' +
                'signs in again. Passkeys that were made at the old address no longer open it. Nothing else of this ' +
                'installation is found there.'
          }
          keep="Leave it"
          go={address === '' ? 'Take it away' : 'Set the address'}
          onGo={() => keep(address === '' ? null : address)}
        />
      </div>
    </fieldset>
  );
}
