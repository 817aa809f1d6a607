/** An address that leads to nothing says so, with a way back. */
export function NothingHere({ to, back }: { to: string; back: string }) {
  return (
    <main className="grid min-h-dvh content-center justify-items-center gap-3 p-6">
      <h1>There is nothing at this address</h1>
      <p className="text-soft">It may have been mistyped, or what stood here is gone.</p>
      <a href={to}>{back}</a>
    </main>
  );
}
