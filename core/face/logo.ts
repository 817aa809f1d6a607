/** So large a logo may be as text, which everybody loads who comes to the door. */
const largestLogo = 40_000;
const widest = 1000;
const start = 'data:image/png;base64,';

/**
 * Why a text is no logo, in words; null where it is one: a picture in the PNG format, small enough for a door. Its size
 * stands in the header chunk (PNG, third edition, 11.2.1).
 */
export function logoProblem(text: string): string | null {
  if (text.length > largestLogo) return 'is larger than 30 kB';
  if (!text.startsWith(start) || !/^[A-Za-z0-9+/]+={0,2}$/.test(text.slice(start.length))) return 'is no PNG picture';
  const head = atob(text.slice(start.length, start.length + 32));
  if (!head.startsWith('\x89PNG\r\n\x1a\n') || head.slice(12, 16) !== 'IHDR') return 'is no PNG picture';
  const number = (at: number) => [0, 1, 2, 3].reduce((sum, i) => sum * 256 + head.charCodeAt(at + i), 0);
  const [width, height] = [number(16), number(20)];
  return width < 1 || height < 1 || width > widest || height > widest
    ? `is ${width} by ${height} pixels; up to ${widest} by ${widest} are taken`
    : null;
}
