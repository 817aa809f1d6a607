import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { problemText } from '../client/http';
import type { DemoPeople } from '../client/portal';
import { Button } from '../ui/Button';
import { Field } from '../ui/Field';
import { Notice } from '../ui/Notice';

/** E-mail and password. In the demo the people to sign in as stand below. */
export function SignIn({
  signIn,
  title,
  colour,
  demo,
  onDone,
}: {
  signIn: (as: { email: string; password: string }) => Promise<unknown>;
  title: string;
  colour: string;
  demo: DemoPeople | null;
  onDone: () => void;
}) {
  const form = useForm({ defaultValues: { email: '', password: '' } });
  const [fault, setFault] = useState('');
  const submit = form.handleSubmit(async (values) => {
    setFault('');
    try {
      await signIn(values);
      onDone();
    } catch (error) {
      setFault(problemText(error));
      form.setFocus('password');
    }
  });
  return (
    <main className="grid min-h-dvh place-items-center p-4">
      <div className="grid w-full max-w-100 gap-5">
        <form
          onSubmit={(event) => void submit(event)}
          noValidate
          className="grid gap-4 rounded-stone border border-line bg-paper p-6 border-t-6"
          style={{ borderTopColor: colour }}
        >
          <h1>{title}</h1>
          {fault && <Notice kind="fault">{fault}</Notice>}
          <Field label="E-mail" fault={form.formState.errors.email?.message}>
            {(ids) => (
              <input
                className="field"
                type="email"
                autoComplete="username"
                {...ids}
                {...form.register('email', { required: 'Enter your e-mail.' })}
              />
            )}
          </Field>
          <Field label="Password" fault={form.formState.errors.password?.message}>
            {(ids) => (
              <input
                className="field"
                type="password"
                autoComplete="current-password"
                {...ids}
                {...form.register('password', { required: 'Enter your password.' })}
              />
            )}
          </Field>
          <Button type="submit" weight="main" disabled={form.formState.isSubmitting}>
            Sign in
          </Button>
        </form>
        {demo && (
          <section
            aria-label="People of the demo"
            className="rounded-stone border border-dashed border-line-strong p-4"
          >
            <h2 className="text-base">In this demo you can be</h2>
            <ul className="mt-2 grid gap-2">
              {demo.people.map((person) => (
                <li key={person.email}>
                  <button
                    type="button"
                    className="w-full rounded-stone border border-line bg-paper px-3 py-2 text-left hover:bg-sunk"
                    onClick={() => {
                      form.setValue('email', person.email);
                      form.setValue('password', demo.password);
                      form.setFocus('password');
                    }}
                  >
                    <span className="font-semibold">{person.name}</span> · {person.role}
                    <br />
                    <span className="text-sm text-soft">{person.email}</span>
                  </button>
                </li>
              ))}
            </ul>
            <p className="mt-3 text-sm text-soft">
              Everyone's password: <span className="font-code">{demo.password}</span>
            </p>
          </section>
        )}
      </div>
    </main>
  );
}
