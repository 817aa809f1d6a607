/** A mail as its reader sees it, in a frame that runs nothing and reaches nothing. */
export function MailShown({ subject, html }: { subject: string; html: string }) {
  return (
    <div className="overflow-hidden rounded-stone border border-line bg-white">
      <p className="border-b border-line px-3 py-2 font-semibold break-words text-[#21282b]">{subject}</p>
      <iframe sandbox="" title={`The mail: ${subject}`} srcDoc={html} className="block h-80 w-full border-0" />
    </div>
  );
}
