/** What something is called, and small beside it what the database calls it where that is not plain from the first. */
export function Named({ label, raw, className = '' }: { label: string; raw: string; className?: string }) {
  const plain = label.toLowerCase() === raw.toLowerCase();
  return (
    <span className={className}>
      {label}
      {!plain && <code className="ml-1.5 font-code text-xs font-normal text-soft">{raw}</code>}
    </span>
  );
}
