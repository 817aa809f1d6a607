import type { Form } from '../../../core/definition/form';
import { Field } from '../../ui/Field';
import { Select } from '../../ui/Select';
import { useBench } from '../bench/bench-context';
import type { ChangeForm } from './form-edits';

/** What its button says, what follows a sending, and how often and until when it can be sent. */
export function AfterSending({ form, onChange }: { form: Form; onChange: ChangeForm }) {
  const { draft } = useBench();
  const { title, send, says, then, corrects, closes, most, oneEach, anonymous } = form;
  const tick = (label: string, key: 'corrects' | 'oneEach' | 'anonymous', words: string, value: true | undefined) => (
    <label className="inline-flex min-h-6 items-center gap-2">
      <input
        type="checkbox"
        checked={value === true}
        onChange={(event) => {
          const given = event.target.checked;
          void onChange(label, (next) => {
            if (given) next[key] = true;
            else delete next[key];
          });
        }}
      />{' '}
      {words}
    </label>
  );
  return (
    <fieldset className="grid gap-3">
      <legend className="text-sm font-semibold">Sending</legend>
      <div className="grid gap-3 @min-[700px]:grid-cols-2">
        <Field label="What its button says" hint="Empty says Send">
          {(ids) => (
            <input
              className="field"
              {...ids}
              key={send ?? ''}
              defaultValue={send ?? ''}
              maxLength={40}
              onBlur={(event) => {
                const typed = event.target.value.trim();
                if (typed !== (send ?? ''))
                  void onChange(`Word the button of ${title}`, (next) => {
                    if (typed) next.send = typed;
                    else delete next.send;
                  });
              }}
            />
          )}
        </Field>
        <Field label="Then">
          {(ids) => (
            <Select
              {...ids}
              value={then?.page ?? ''}
              onPick={(page) =>
                void onChange(`Set where ${title} leads`, (next) => {
                  if (page) next.then = { page };
                  else delete next.then;
                })
              }
            >
              <option value="">they stay, and read what is said</option>
              {draft.pages.map(({ id, title: called }) => (
                <option key={id} value={id}>
                  to {called}
                </option>
              ))}
            </Select>
          )}
        </Field>
        <Field label="Said once it is sent" hint="Markdown; empty says thank you">
          {(ids) => (
            <textarea
              className="field"
              rows={3}
              {...ids}
              key={says ?? ''}
              defaultValue={says ?? ''}
              maxLength={5000}
              onBlur={(event) => {
                const typed = event.target.value.trim();
                if (typed !== (says ?? ''))
                  void onChange(`Word what ${title} says`, (next) => {
                    if (typed) next.says = typed;
                    else delete next.says;
                  });
              }}
            />
          )}
        </Field>
        <div className="grid content-start gap-3">
          <Field label="Last day" hint="Empty never closes it">
            {(ids) => (
              <input
                type="date"
                className="field w-48"
                {...ids}
                key={closes ?? ''}
                defaultValue={closes ?? ''}
                onBlur={(event) => {
                  const typed = event.target.value;
                  if (typed !== (closes ?? ''))
                    void onChange(`Set when ${title} closes`, (next) => {
                      if (typed) next.closes = typed;
                      else delete next.closes;
                    });
                }}
              />
            )}
          </Field>
          <Field label="So often in all" hint="Empty is as often as it comes">
            {(ids) => (
              <input
                inputMode="numeric"
                className="field w-32"
                {...ids}
                key={most ?? ''}
                defaultValue={most ?? ''}
                onBlur={(event) => {
                  const number = Math.trunc(Number(event.target.value));
                  if (number !== (most ?? 0))
                    void onChange(`Set how often ${title} is sent`, (next) => {
                      if (number >= 1) next.most = number;
                      else delete next.most;
                    });
                }}
              />
            )}
          </Field>
        </div>
      </div>
      {tick(
        `Let senders of ${title} correct it`,
        'corrects',
        'What was sent can be corrected by whoever sent it, until they leave the page',
        corrects,
      )}
      {tick(`Let ${title} be sent once by each`, 'oneEach', 'Once by each person who is signed in', oneEach)}
      {tick(`Let ${title} be anonymous`, 'anonymous', 'Anonymous: nothing is kept of who sent it, or when', anonymous)}
    </fieldset>
  );
}
