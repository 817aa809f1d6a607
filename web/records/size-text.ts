/** A size in bytes for people, in kilobytes and megabytes of the SI. */
export function sizeText(bytes: number): string {
  return bytes < 1e6
    ? `${Math.max(1, Math.round(bytes / 1000)).toLocaleString()} kB`
    : `${(bytes / 1e6).toLocaleString(undefined, { maximumFractionDigits: 1 })} MB`;
}
