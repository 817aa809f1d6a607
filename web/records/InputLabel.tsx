/** What an input is called, and whether it may be left alone. */
export function InputLabel({ label, mayStayEmpty }: { label: string; mayStayEmpty: boolean }) {
  if (!mayStayEmpty) return label;
  return (
    <>
      {label} <span className="font-normal text-soft">(if you like)</span>
    </>
  );
}
