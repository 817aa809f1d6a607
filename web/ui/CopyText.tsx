import { useState } from 'react';
import { Copy } from 'lucide-react';
import { Button } from './Button';

/** A text to be taken elsewhere, with a button that copies it. */
export function CopyText({ text }: { text: string }) {
  const [copied, setCopied] = useState<string | null>(null);
  return (
    <>
      <code className="min-w-0 grow rounded-stone bg-sunk px-2 py-1 text-sm break-all">{text}</code>
      <Button small onClick={() => void navigator.clipboard.writeText(text).then(() => setCopied(text))}>
        <Copy size={15} aria-hidden /> {copied === text ? 'Copied' : 'Copy'}
      </Button>
    </>
  );
}
