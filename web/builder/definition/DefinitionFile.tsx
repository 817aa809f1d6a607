import { useRef, type ChangeEvent } from 'react';
import { Upload } from 'lucide-react';
import { documentIn } from '../../client/definitions';
import { Button } from '../../ui/Button';

/** A button by which a definition is chosen as a file. */
export function DefinitionFile({
  children,
  disabled = false,
  onChosen,
  onFault,
}: {
  children: string;
  disabled?: boolean;
  onChosen: (document: unknown, name: string) => void;
  onFault: (error: unknown) => void;
}) {
  const file = useRef<HTMLInputElement>(null);
  const choose = async (event: ChangeEvent<HTMLInputElement>) => {
    const chosen = event.target.files?.[0];
    event.target.value = '';
    if (!chosen) return;
    try {
      onChosen(await documentIn(chosen), chosen.name);
    } catch (error) {
      onFault(error);
    }
  };
  return (
    <>
      <Button small disabled={disabled} onClick={() => file.current?.click()}>
        <Upload size={15} aria-hidden /> {children}
      </Button>
      <input
        ref={file}
        type="file"
        accept="application/json,.json"
        className="sr-only"
        aria-label="Definition file"
        tabIndex={-1}
        onChange={(event) => void choose(event)}
      />
    </>
  );
}
