/** Pages that the stand-ins show of what came to them. */

const signs: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' };
/** Text as it stands in HTML. */
export const words = (text: string): string => text.replaceAll(/[&<>"']/g, (sign) => signs[sign]!);

export const page = (title: string, body: string): string =>
  `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>${words(title)}</title><style>
  body { font: 16px/1.5 sans-serif; margin: 2rem auto; max-width: 50rem; padding: 0 1rem; color: #21282b;
    background: #f5f2ec }
  table { border-collapse: collapse; width: 100% } td, th { text-align: left; padding: .4rem .6rem;
    border-bottom: 1px solid #cfc8ba; vertical-align: top }
  main { background: #fff; border: 1px solid #cfc8ba; padding: 1rem } a { color: #1f5f85 }
  dt { color: #5b6468 } dd { margin: 0 0 .4rem }
  </style></head><body>${body}</body></html>`;
