import { useState } from 'react';
import { contrast, textContrast } from '../../../core/face/contrast';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';

/** A colour by its picker or its hexadecimal text, with how it is shown where letters on it need another. */
export function ColourField({
  label,
  hint,
  value,
  usual,
  letters,
  shown,
  onChange,
}: {
  label: string;
  hint?: string;
  /** Absent where it stands as it comes. */
  value: string | undefined;
  usual: string;
  /** The colour of what is written on it. */
  letters: string;
  /** What it becomes so that letters can be read. */
  shown: (colour: string) => string;
  onChange: (colour: string | undefined) => void;
}) {
  const [fault, setFault] = useState<string | null>(null);
  const take = (text: string) => {
    const typed = text.trim().toLowerCase();
    const colour = /^#?([0-9a-f]{6})$/.exec(typed)?.[1];
    if (typed !== '' && colour === undefined) {
      setFault('Write a colour as # and six of the signs 0 to 9 and a to f.');
      return;
    }
    setFault(null);
    const next = colour === undefined ? undefined : `#${colour}`;
    if (next !== value) onChange(next);
  };
  const now = value ?? usual;
  const becomes = shown(now);
  return (
    <div className="grid content-start gap-1">
      <Field label={label} hint={hint} fault={fault}>
        {(ids) => (
          <span className="flex gap-2">
            <input
              type="color"
              aria-label={`${label}, chosen by sight`}
              className="h-9 w-12 rounded-stone border border-line-strong bg-paper p-0.5"
              key={`picked ${now}`}
              defaultValue={now}
              onBlur={(event) => {
                if (event.target.value !== now) take(event.target.value);
              }}
            />
            <input
              className="field w-32 font-code"
              maxLength={7}
              {...ids}
              key={value ?? ''}
              defaultValue={value ?? ''}
              placeholder={usual}
              onBlur={(event) => take(event.target.value)}
            />
          </span>
        )}
      </Field>
      {value !== undefined && becomes !== value && (
        <p className="flex flex-wrap items-center gap-2 text-sm">
          <span>
            {`Letters on it reach ${contrast(value, letters).toFixed(1)} : 1 and need ${textContrast} : 1. `}
            It is shown as <span className="font-code">{becomes}</span>.
          </span>
          <Button small onClick={() => onChange(becomes)}>
            Keep {becomes}
          </Button>
        </p>
      )}
    </div>
  );
}
