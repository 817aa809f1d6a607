import { useState, type FormEvent } from 'react';
import { problemText, ServerProblem } from '../../client/http';
import { useKeyWork } from '../../client/keys';
import { DateInput } from '../../records/DateInput';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Notice } from '../../ui/Notice';
import { Select } from '../../ui/Select';
import { useBench } from '../bench/bench-context';

const usual = 600;

/** Asks for what a key is, and makes it; `onMade` is told the key, which nobody is told again. */
export function MakeKey({ onMade }: { onMade: (key: string) => void }) {
  const { slug, draft } = useBench();
  const { make } = useKeyWork(slug);
  const services = draft.roles.filter((role) => role.for === 'services');
  const [role, setRole] = useState(services[0]?.id ?? '');
  const [name, setName] = useState('');
  const [ends, setEnds] = useState('');
  const [addresses, setAddresses] = useState('');
  const [aMinute, setAMinute] = useState(String(usual));
  const fields = make.error instanceof ServerProblem ? ((make.error.body.fields ?? {}) as Record<string, string>) : {};
  const send = (event: FormEvent) => {
    event.preventDefault();
    make.mutate(
      {
        role,
        name: name.trim(),
        endsAt: ends === '' ? null : `${ends}T23:59:59Z`,
        addresses: addresses.split(/[\s,]+/).filter((each) => each !== ''),
        aMinute: Number(aMinute),
      },
      { onSuccess: ({ key }) => onMade(key) },
    );
  };
  return (
    <form className="grid gap-3" onSubmit={send}>
      <Field label="Works as">
        {(ids) => (
          <Select {...ids} value={role} onPick={setRole}>
            {services.map((each) => (
              <option key={each.id} value={each.id}>
                {each.name}
              </option>
            ))}
          </Select>
        )}
      </Field>
      <Field label="What it is for" hint="To know it by: the program, or who runs it" fault={fields.name}>
        {(ids) => (
          <input
            className="field"
            {...ids}
            required
            maxLength={80}
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        )}
      </Field>
      <Field label="Last day" hint="Empty has no end" fault={fields.endsAt}>
        {(ids) => <DateInput label="Last day" value={ends} onChange={setEnds} inputProps={ids} />}
      </Field>
      <Field
        label="Used from"
        hint="Addresses or networks, like 192.0.2.7 or 2001:db8::/32; empty lets it be used from anywhere"
        fault={fields.addresses}
      >
        {(ids) => (
          <input className="field" {...ids} value={addresses} onChange={(event) => setAddresses(event.target.value)} />
        )}
      </Field>
      <Field label="Requests a minute, at most" fault={fields.aMinute}>
        {(ids) => (
          <input
            className="field w-28"
            {...ids}
            inputMode="numeric"
            value={aMinute}
            onChange={(event) => setAMinute(event.target.value)}
          />
        )}
      </Field>
      {make.isError && Object.keys(fields).length === 0 && <Notice kind="fault">{problemText(make.error)}</Notice>}
      <Button type="submit" weight="main" disabled={make.isPending || role === ''}>
        Make the key
      </Button>
    </form>
  );
}
