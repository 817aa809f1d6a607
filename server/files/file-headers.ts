/** Pictures that browsers show and that can hold no script. Everything else is only downloaded. */
const shown = new Set(['image/png', 'image/jpeg', 'image/gif', 'image/webp', 'image/avif']);

/** Headers under which a browser does nothing with a file of somebody's but show a picture or save it. */
export function fileHeaders({
  name,
  type,
  size,
}: {
  name: string;
  type: string;
  size: number;
}): Record<string, string> {
  const inline = shown.has(type);
  const percent = (sign: string) => `%${sign.charCodeAt(0).toString(16).toUpperCase()}`;
  const named = `filename*=UTF-8''${encodeURIComponent(name).replaceAll(/['()*]/g, percent)}`;
  return {
    'Content-Type': inline ? type : 'application/octet-stream',
    'Content-Length': String(size),
    'Content-Disposition': `${inline ? 'inline' : 'attachment'}; ${named}`,
    'Content-Security-Policy': "default-src 'none'; sandbox; frame-ancestors 'none'",
    'X-Content-Type-Options': 'nosniff',
    'Cross-Origin-Resource-Policy': 'same-origin',
    'Cache-Control': 'private, no-store',
  };
}
