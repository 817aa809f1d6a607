import { useState } from 'react';
import { formOf, problemText } from '../client/http';
import { records } from '../client/portal';
import { fileAddressOf, FileLink } from './FileLink';

/** Choosing a file for a column; a picture that is there already is shown. */
export default function FileInput({
  base,
  table,
  id,
  column,
  label,
  value,
  onSent,
  inputProps = {},
}: {
  base: string;
  table: string;
  id: string | null;
  column: string;
  label: string;
  value: string;
  onSent: (file: string) => void;
  inputProps?: Record<string, unknown>;
}) {
  const [state, setState] = useState<{ saying: string; fault: boolean } | null>(null);
  const [sent, setSent] = useState(false);
  const [isPicture, setIsPicture] = useState(true);
  const send = async (file: File | undefined) => {
    if (!file) return;
    setState({ saying: `Sending ${file.name} …`, fault: false });
    try {
      const kept = await records(base)('POST /records/:table/files/:column', {
        params: { table, column },
        body: formOf(file),
      });
      setSent(true);
      setState({ saying: `${kept.name} is sent; save to keep it.`, fault: false });
      onSent(kept.file);
    } catch (error) {
      setState({ saying: problemText(error), fault: true });
    }
  };
  return (
    <div className="grid gap-1">
      {value !== '' && id !== null && !sent && (
        <>
          {isPicture && (
            <img
              src={fileAddressOf(base, table, id, column)}
              alt={label}
              className="max-h-40 max-w-full rounded-stone border border-line object-contain"
              onError={() => setIsPicture(false)}
            />
          )}
          <FileLink base={base} table={table} id={id} column={column} label={label} />
        </>
      )}
      <input type="file" className="field" {...inputProps} onChange={(event) => void send(event.target.files?.[0])} />
      {state && (
        <p
          role={state.fault ? 'alert' : 'status'}
          className={`text-sm ${state.fault ? 'font-medium text-iron' : 'text-soft'}`}
        >
          {state.saying}
        </p>
      )}
    </div>
  );
}
