/** Gives the browser a text to keep as a file. */
export function saveText(name: string, type: string, text: string): void {
  const address = URL.createObjectURL(new Blob([text], { type: `${type};charset=utf-8` }));
  const link = document.createElement('a');
  link.href = address;
  link.download = name;
  link.click();
  // Not at once: some browsers begin to read it only after the press.
  setTimeout(() => URL.revokeObjectURL(address), 60_000);
}
