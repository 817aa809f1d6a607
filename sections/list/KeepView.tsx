import { useState, type FormEvent } from 'react';
import { useChangeViews, type KeptView, type Standing } from '../../web/client/kept-views';
import { problemText } from '../../web/client/http';
import { useDone } from '../../web/place/done';
import { usePlace } from '../../web/place/place';
import { Button } from '../../web/ui/Button';
import { Dialog } from '../../web/ui/Dialog';
import { Field } from '../../web/ui/Field';
import { Notice } from '../../web/ui/Notice';

/** Asks under which name a view is kept, and with whom it is shared; or changes one that is kept. */
export function KeepView({
  section,
  noun,
  standing,
  kept,
  shareWith,
  onClose,
}: {
  section: string;
  noun: string;
  /** How the list stands now. */
  standing: Standing;
  kept: KeptView | null;
  shareWith: { id: string; name: string }[] | null;
  onClose: () => void;
}) {
  const { base, spot } = usePlace();
  const { keep } = useChangeViews(base, spot.page, section);
  const done = useDone();
  const [name, setName] = useState(kept?.name ?? '');
  const [roles, setRoles] = useState(kept?.roles ?? []);
  const [people, setPeople] = useState((kept?.people ?? []).join('\n'));
  const [asNow, setAsNow] = useState(!kept?.standing);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    const called = name.trim();
    if (called === '') return;
    const addresses = people.split(/[\s,;]+/).filter((each) => each !== '');
    const shared = roles.length + addresses.length > 0;
    keep.mutate(
      {
        kept: kept?.id ?? null,
        name: called,
        roles,
        people: addresses,
        standing: asNow ? standing : (kept?.standing ?? standing),
      },
      {
        onSuccess: () => {
          done({ words: `The view ${called} is kept${shared ? ' and shared' : ''}.` });
          onClose();
        },
      },
    );
  };
  return (
    <Dialog
      title={kept ? `Change the view ${kept.name}` : 'Keep this view'}
      says={`Columns, order, filter, search and chart of ${noun}, as you have them.`}
      open
      onOpenChange={(open) => open || onClose()}
    >
      <form onSubmit={submit} className="grid gap-4">
        <Field label="Name">
          {(ids) => (
            <input
              className="field"
              required
              maxLength={60}
              {...ids}
              value={name}
              onChange={(event) => setName(event.target.value)}
            />
          )}
        </Field>
        {kept?.standing && (
          <label className="inline-flex items-center gap-2">
            <input type="checkbox" checked={asNow} onChange={(event) => setAsNow(event.target.checked)} /> As the list
            stands now
          </label>
        )}
        {shareWith && shareWith.length > 0 && (
          <fieldset>
            <legend className="text-sm font-semibold">Share it with</legend>
            <div className="flex flex-wrap gap-x-4">
              {shareWith.map((role) => (
                <label key={role.id} className="inline-flex min-h-7 items-center gap-2">
                  <input
                    type="checkbox"
                    checked={roles.includes(role.id)}
                    onChange={(event) =>
                      setRoles(event.target.checked ? [...roles, role.id] : roles.filter((each) => each !== role.id))
                    }
                  />{' '}
                  {role.name}
                </label>
              ))}
            </div>
          </fieldset>
        )}
        {shareWith && (
          <Field
            label="Share it with people"
            hint="Their e-mail addresses. It opens for those who get this list and may see what it asks for."
          >
            {(ids) => (
              <textarea
                className="field"
                rows={2}
                maxLength={5000}
                {...ids}
                value={people}
                onChange={(event) => setPeople(event.target.value)}
              />
            )}
          </Field>
        )}
        {keep.isError && <Notice kind="fault">{problemText(keep.error)}</Notice>}
        <Button type="submit" weight="main" className="justify-self-start" disabled={keep.isPending}>
          {kept ? 'Change it' : 'Keep it'}
        </Button>
      </form>
    </Dialog>
  );
}
