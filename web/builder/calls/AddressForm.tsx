import { useState, type FormEvent } from 'react';
import { addressProblem } from '../../../core/definition/outside-address';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';

/** Name and address of what is called; told once both are such as can be kept. */
export function AddressForm({ word, onMake }: { word: string; onMake: (name: string, url: string) => void }) {
  const [name, setName] = useState('');
  const [url, setUrl] = useState('https://');
  const [faults, setFaults] = useState<{ name?: string; url?: string }>({});
  const make = (event: FormEvent) => {
    event.preventDefault();
    event.stopPropagation();
    const problem = addressProblem(url.trim());
    const found = { ...(name.trim() ? {} : { name: 'Give it a name.' }), ...(problem ? { url: problem } : {}) };
    setFaults(found);
    if (Object.keys(found).length === 0) onMake(name.trim(), url.trim());
  };
  return (
    <form noValidate className="grid gap-3" onSubmit={make}>
      <Field label="What it is called" fault={faults.name}>
        {(ids) => (
          <input
            className="field"
            {...ids}
            value={name}
            maxLength={60}
            onChange={(event) => setName(event.target.value)}
          />
        )}
      </Field>
      <Field label="Its address" fault={faults.url} hint="Where it takes JSON that is sent with POST.">
        {(ids) => (
          <input
            className="field font-mono"
            type="url"
            {...ids}
            value={url}
            maxLength={500}
            onChange={(event) => setUrl(event.target.value)}
          />
        )}
      </Field>
      <Button type="submit" weight="main" className="justify-self-start">
        {word}
      </Button>
    </form>
  );
}
