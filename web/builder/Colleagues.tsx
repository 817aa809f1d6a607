import { useState, type FormEvent } from 'react';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { workplace } from '../client/bench';
import { usePortals } from '../client/builder';
import { problemText, ServerProblem } from '../client/http';
import { Button } from '../ui/Button';
import { DataTable, Unseen } from '../ui/DataTable';
import { Dialog } from '../ui/Dialog';
import { Field } from '../ui/Field';
import { Notice, Skeleton } from '../ui/Notice';
import { Question } from '../ui/Question';
import { Select } from '../ui/Select';
import { OwnersPage } from './OwnersPage';

const key = ['builder', 'colleagues'];
const load = () => workplace('GET /colleagues');
type Colleague = Awaited<ReturnType<typeof load>>['colleagues'][number];

const rights: Record<Colleague['right'], string> = {
  owner: 'Owner: all, and the others who build',
  builder: 'Builder: makes and changes portals',
  reader: 'Reader: looks at everything, changes nothing',
};

/** Changes somebody or something, and reads the list anew. */
function useChange<Asked>(change: (asked: Asked) => Promise<unknown>) {
  const client = useQueryClient();
  return useMutation({ mutationFn: change, onSuccess: () => client.invalidateQueries({ queryKey: key }) });
}

/** Everyone who builds here, looked after by owners. What is set here holds at once. */
export default function Colleagues() {
  const colleagues = useQuery({ queryKey: key, queryFn: load });
  return (
    <OwnersPage
      title="Colleagues"
      action={<ColleagueDialog trigger={<Button weight="main">Invite somebody</Button>} colleague={null} />}
    >
      {colleagues.isPending && <Skeleton />}
      {colleagues.isError && <Notice kind="fault">{problemText(colleagues.error)}</Notice>}
      {colleagues.data && (
        <DataTable framed label="Colleagues" head={['Name', 'May', 'Portals', <Unseen key="do">Actions</Unseen>]}>
          {colleagues.data.colleagues.map((each) => (
            <Row key={each.id} colleague={each} />
          ))}
        </DataTable>
      )}
    </OwnersPage>
  );
}

function Row({ colleague }: { colleague: Colleague }) {
  const { id, name, email, right, portals, suspended, seesPersonal, hasBeenIn, hasSecondFactor } = colleague;
  const all = usePortals().data?.portals ?? [];
  const called = (slug: string) => all.find((portal) => portal.slug === slug)?.name ?? slug;
  const link = useChange(() => workplace('POST /colleagues/:builder/link', { params: { builder: id } }));
  const remove = useChange(() => workplace('DELETE /colleagues/:builder', { params: { builder: id } }));
  const forget = useChange(() => workplace('DELETE /colleagues/:builder/second-factor', { params: { builder: id } }));
  const end = useChange(() => workplace('DELETE /colleagues/:builder/sessions', { params: { builder: id } }));
  const fault = link.error ?? remove.error ?? forget.error ?? end.error;
  return (
    <tr className="align-top">
      <td>
        <strong>{name}</strong>
        <div className="text-sm break-all text-soft">{email}</div>
        {suspended && <div className="text-sm text-iron">suspended</div>}
        {!hasBeenIn && !suspended && <div className="text-sm text-soft">has not been in yet</div>}
        {fault && <Notice kind="fault">{problemText(fault)}</Notice>}
        {hasSecondFactor && <div className="text-sm text-soft">with a second factor</div>}
        {link.isSuccess && <Notice kind="say">A link is on its way.</Notice>}
        {end.isSuccess && <Notice kind="say">Signed out everywhere.</Notice>}
      </td>
      <td>
        {rights[right].split(':')[0]}
        {!seesPersonal && <div className="text-sm text-soft">kept from personal data</div>}
      </td>
      <td>{portals === null ? 'all' : portals.map(called).join(', ') || 'none'}</td>
      <td className="text-right">
        <ColleagueDialog
          trigger={
            <Button small weight="quiet">
              Change<span className="sr-only"> {name}</span>
            </Button>
          }
          colleague={colleague}
        />
        <Button small weight="quiet" onClick={() => link.mutate(undefined)}>
          Send a link<span className="sr-only"> to {name}</span>
        </Button>
        <Button small weight="quiet" onClick={() => end.mutate(undefined)}>
          Sign out<span className="sr-only"> {name} everywhere</span>
        </Button>
        {hasSecondFactor && (
          <Question
            trigger={
              <Button small weight="quiet">
                Forget the second factor<span className="sr-only"> of {name}</span>
              </Button>
            }
            title={`Forget the second factor of ${name}?`}
            says="For whoever lost it. Until they set a new one up, their other proof is enough."
            keep="Leave it"
            go="Forget it"
            onGo={() => forget.mutate(undefined)}
          />
        )}
        <Question
          trigger={
            <Button small weight="quiet">
              Remove<span className="sr-only"> {name}</span>
            </Button>
          }
          title={`Remove ${name}?`}
          says="They can't come in any more. What they did stays, in the logs as well."
          keep="Leave them"
          go="Remove"
          onGo={() => remove.mutate(undefined)}
        />
      </td>
    </tr>
  );
}

function ColleagueDialog({ trigger, colleague }: { trigger: React.ReactNode; colleague: Colleague | null }) {
  const [open, setOpen] = useState(false);
  return (
    <Dialog
      trigger={trigger}
      title={colleague ? `What ${colleague.name} may do` : 'Invite somebody who builds'}
      says={
        colleague ? 'It holds at their next click.' : 'They are sent a link by which they come in, once within a week.'
      }
      open={open}
      onOpenChange={setOpen}
    >
      <ColleagueForm colleague={colleague} onDone={() => setOpen(false)} />
    </Dialog>
  );
}

function ColleagueForm({ colleague, onDone }: { colleague: Colleague | null; onDone: () => void }) {
  const all = usePortals();
  const [form, setForm] = useState({
    name: colleague?.name ?? '',
    email: '',
    right: colleague?.right ?? ('builder' as const),
    portals: colleague?.portals ?? null,
    suspended: colleague?.suspended ?? false,
    seesPersonal: colleague?.seesPersonal ?? true,
  });
  const save = useChange(() => {
    const { name, email, right, portals, suspended, seesPersonal } = form;
    return colleague
      ? workplace('PUT /colleagues/:builder', {
          params: { builder: colleague.id },
          body: { name, right, portals, suspended, seesPersonal },
        })
      : workplace('POST /colleagues', { body: { name, email, right, portals, seesPersonal } });
  });
  const fields = save.error instanceof ServerProblem ? ((save.error.body.fields ?? {}) as Record<string, string>) : {};
  const submit = (event: FormEvent) => {
    event.preventDefault();
    save.mutate(undefined, { onSuccess: onDone });
  };
  const portals = all.data?.portals ?? [];
  return (
    <form onSubmit={submit} noValidate className="grid gap-3">
      {save.isError && Object.keys(fields).length === 0 && <Notice kind="fault">{problemText(save.error)}</Notice>}
      <Field label="Name" fault={fields.name}>
        {(ids) => (
          <input
            className="field"
            {...ids}
            value={form.name}
            onChange={(event) => setForm({ ...form, name: event.target.value })}
          />
        )}
      </Field>
      {!colleague && (
        <Field label="E-mail" fault={fields.email}>
          {(ids) => (
            <input
              className="field"
              type="email"
              {...ids}
              value={form.email}
              onChange={(event) => setForm({ ...form, email: event.target.value })}
            />
          )}
        </Field>
      )}
      <Field label="May">
        {(ids) => (
          <Select
            {...ids}
            value={form.right}
            onPick={(picked) => {
              const right = picked as Colleague['right'];
              setForm({ ...form, right, seesPersonal: right === 'owner' ? true : form.seesPersonal });
            }}
          >
            {Object.entries(rights).map(([right, says]) => (
              <option key={right} value={right}>
                {says}
              </option>
            ))}
          </Select>
        )}
      </Field>
      <fieldset className="grid gap-1">
        <legend className="mb-1 font-semibold">At which portals</legend>
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            checked={form.portals === null}
            onChange={(event) => setForm({ ...form, portals: event.target.checked ? null : [] })}
          />
          all, new ones too
        </label>
        {form.portals !== null &&
          portals.map(({ slug, name }) => (
            <label key={slug} className="flex items-center gap-2">
              <input
                type="checkbox"
                checked={form.portals!.includes(slug)}
                onChange={(event) => {
                  const others = form.portals!.filter((each) => each !== slug);
                  setForm({ ...form, portals: event.target.checked ? [...others, slug] : others });
                }}
              />
              {name}
            </label>
          ))}
      </fieldset>
      {form.right !== 'owner' && (
        <div>
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              checked={!form.seesPersonal}
              onChange={(event) => setForm({ ...form, seesPersonal: !event.target.checked })}
            />
            Kept from personal data
          </label>
          <p className="text-sm text-soft">
            Columns with a data class show stand-ins to them, on the bench and in Seen by. Rules are built and proven
            all the same.
          </p>
        </div>
      )}
      {colleague && (
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            checked={form.suspended}
            onChange={(event) => setForm({ ...form, suspended: event.target.checked })}
          />
          Suspended: may not come in
        </label>
      )}
      <div>
        <Button type="submit" weight="main" disabled={save.isPending}>
          {colleague ? 'Keep' : 'Invite'}
        </Button>
      </div>
    </form>
  );
}
