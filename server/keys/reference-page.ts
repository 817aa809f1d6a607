import { createHash } from 'node:crypto';
import type { Response } from 'express';
import { escapeHtml } from '../mail/written-mail';

type Json = Record<string, unknown>;

interface Schema extends Json {
  $ref?: string;
  type?: string | string[];
  title?: string;
  description?: string;
  properties?: Record<string, Schema>;
  required?: string[];
  items?: Schema;
  anyOf?: Schema[];
  enum?: unknown[];
  format?: string;
  maxLength?: number;
}

interface Content {
  [type: string]: { schema: Schema; example?: unknown };
}

interface Operation {
  summary: string;
  tags: string[];
  parameters?: { name: string; in: string; required?: boolean; description?: string; schema: Schema }[];
  requestBody?: { content: Content };
  responses: Record<string, { description?: string; content?: Content }>;
}

interface Document {
  info: { title: string; summary: string };
  tags: { name: string }[];
  paths: Record<string, Record<string, Operation>>;
  components: { schemas: Record<string, Schema> };
}

const style = `
:root { color-scheme: light dark; --ink: #22302b; --soft: #5a6862; --line: #cfd6d0; --sunk: #f0f2ee; --paper: #fbfbf8 }
@media (prefers-color-scheme: dark) {
  :root { --ink: #e4e9e4; --soft: #a5b1aa; --line: #3b4742; --sunk: #252d2a; --paper: #1a201e } }
body { margin: 0; background: var(--paper); color: var(--ink); font: 1rem/1.55 Georgia, serif }
main { max-width: 56rem; margin: 0 auto; padding: 2rem 1.25rem 4rem }
h1, h2, h3, nav, th, code, pre { font-family: system-ui, sans-serif }
h1 { font-size: 1.7rem; margin: 0 } h2 { margin: 3rem 0 .5rem; border-bottom: 2px solid var(--line) }
h3 { margin: 2rem 0 .25rem; font-size: 1.05rem }
p { margin: .4rem 0; max-width: 44rem } .soft { color: var(--soft) }
code, pre { font: .875rem/1.5 ui-monospace, monospace; background: var(--sunk) } code { padding: .1em .3em }
pre { padding: .75rem 1rem; overflow-x: auto; border: 1px solid var(--line) }
.wide { overflow-x: auto } table { border-collapse: collapse; width: 100% }
th, td { text-align: left; vertical-align: top; padding: .3rem 1.5rem .3rem 0; border-bottom: 1px solid var(--line) }
nav ul { padding: 0; list-style: none; display: flex; flex-wrap: wrap; gap: .25rem 1.25rem } a { color: inherit }
`;

const styleHash = createHash('sha256').update(style).digest('base64');

/** Sends the page of a key's document. It holds all that it needs, so a copy can be read anywhere. */
export function sendReference(res: Response, document: Json): void {
  res.setHeader(
    'Content-Security-Policy',
    `default-src 'none'; style-src 'sha256-${styleHash}'; frame-ancestors 'none'`,
  );
  res.type('text/html; charset=utf-8').send(referencePage(document as unknown as Document));
}

/** A key's document (OpenAPI 3.1) as a page to read: a part for each table, with every way to ask and an example. */
function referencePage(document: Document): string {
  const { info, tags, paths } = document;
  const parts = tags.map(({ name }, i) => {
    const ways = Object.entries(paths).flatMap(([path, { parameters = [], ...methods }]) =>
      Object.entries(methods)
        .filter(([, operation]) => operation.tags.includes(name))
        .map(([method, operation]) => {
          const all = [
            ...(parameters as unknown as NonNullable<Operation['parameters']>),
            ...(operation.parameters ?? []),
          ];
          return wayOf(document, method, path, { ...operation, parameters: all });
        }),
    );
    return `<section><h2 id="t${i}">${escapeHtml(name)}</h2>${ways.join('')}</section>`;
  });
  const title = escapeHtml(info.title);
  return `<!doctype html><html lang="en"><head><meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1"><title>${title}</title><style>${style}</style>
</head><body><main><h1>${title}</h1><p class="soft">${escapeHtml(info.summary)}</p>${howToAsk}
<nav aria-label="Tables"><ul>${each(tags, ({ name }, i) => `<li><a href="#t${i}">${escapeHtml(name)}</a></li>`)}</ul>
</nav>${parts.join('')}</main></body></html>`;
}

const each = <T>(list: readonly T[], written: (one: T, i: number) => string): string => list.map(written).join('');

const howToAsk = `<p>Each request carries the key: <code>Authorization: Bearer porch.…</code> Bodies are JSON. A page of
a list has a <code>Link</code> to the next; it comes as CSV with <code>Accept: text/csv</code>, and a record a line with
<code>Accept: application/jsonl</code>. A record has an <code>ETag</code>: send it as <code>If-None-Match</code> to be
told 304 while nothing changed, as <code>If-Match</code> to change only what you saw. <code>RateLimit</code> says how
many requests are left of this minute. What is refused comes as <code>application/problem+json</code>, with the
reason in <code>detail</code> and, by column, in <code>fields</code>. Examples are invented.</p>`;

function wayOf(document: Document, method: string, path: string, operation: Operation): string {
  const { summary, parameters = [], requestBody, responses } = operation;
  const asked = requestBody?.content['application/json'];
  const [status, answer] = Object.entries(responses).find(([each]) => each !== 'default')!;
  const content = answer.content ?? {};
  const types = Object.keys(content);
  return [
    `<h3>${prose(summary)}</h3><pre>${method.toUpperCase()} ${escapeHtml(path)}</pre>`,
    table(
      ['Parameter', 'What it is'],
      parameters.map(({ name, in: where, description, schema }) => [
        `<code>${escapeHtml(name)}</code>`,
        [where === 'query' ? '' : `in the ${where}`, prose(description ?? ''), words(document, schema)]
          .filter((each) => each !== '')
          .join(' · '),
      ]),
    ),
    ...(asked ? ['<p>Sent:</p>', fields(document, asked.schema), example(asked.example)] : []),
    `<p>Answered with ${[status, ...types.map((type) => `<code>${type}</code>`)].join(', ')}:
      ${prose(answer.description ?? '')}</p>`,
    ...(content['application/json']
      ? [fields(document, content['application/json'].schema), example(content['application/json'].example)]
      : []),
  ].join('');
}

/** Words in which what a program says stands between backticks. */
const prose = (text: string): string => escapeHtml(text).replaceAll(/`([^`]+)`/g, '<code>$1</code>');

const example = (value: unknown): string =>
  value === undefined ? '' : `<pre>${escapeHtml(JSON.stringify(value, null, 2))}</pre>`;

function resolved(document: Document, schema: Schema): Schema {
  if (schema.$ref !== undefined)
    return document.components.schemas[schema.$ref.replace('#/components/schemas/', '')] ?? {};
  // What may be empty as well is told by `words`.
  const [only, ...others] = (schema.anyOf ?? []).filter(({ type }) => type !== 'null');
  return only && others.length === 0 ? { title: schema.title, ...resolved(document, only) } : schema;
}

/** The fields of an object, one in another by dots, each with what it is called and what it holds. */
function fields(document: Document, schema: Schema): string {
  const lines: string[][] = [];
  const add = (of: Schema, before: string, deep: number): void => {
    const { properties = {}, required = [] } = resolved(document, of);
    for (const [name, each] of Object.entries(properties)) {
      const at = before + name;
      const own = resolved(document, each);
      const inner = own.items ? resolved(document, own.items) : own;
      const must = required.includes(name) ? '' : ' · may be absent';
      const title = own.title ?? own.description;
      const said = title === undefined ? '' : `${escapeHtml(title)} · `;
      lines.push([`<code>${escapeHtml(at)}</code>`, said + words(document, each) + must]);
      if (inner.properties && deep < 4) add(inner, own.items ? `${at}[].` : `${at}.`, deep + 1);
    }
  };
  add(schema, '', 0);
  return table(['Field', 'What it holds'], lines);
}

const kindWords: Record<string, string> = { integer: 'whole number', boolean: 'true or false' };

/** What a schema takes, in words. */
function words(document: Document, schema: Schema): string {
  const isOrNull = schema.anyOf?.some(({ type }) => type === 'null') ?? false;
  const { type, enum: choices, format, maxLength, items } = resolved(document, schema);
  const kinds = type === undefined ? [] : [type].flat();
  const said = choices
    ? choices.map((choice) => `<code>${escapeHtml(String(choice))}</code>`).join(' or ')
    : items
      ? `list of ${words(document, items)}`
      : kinds
          .filter((kind) => kind !== 'null')
          .map((kind) => (kind === 'string' ? (format ?? 'text') : (kindWords[kind] ?? kind)))
          .join(' or ') || 'any value';
  const long = maxLength === undefined ? '' : `, ${maxLength} signs at most`;
  return `${said}${long}${isOrNull || kinds.includes('null') ? ' or null' : ''}`;
}

function table(head: string[], lines: string[][]): string {
  if (lines.length === 0) return '';
  const row = (line: string[]) => `<tr>${each(line, (cell) => `<td>${cell}</td>`)}</tr>`;
  return `<div class="wide"><table><thead><tr>${each(head, (cell) => `<th scope="col">${cell}</th>`)}</tr></thead>
<tbody>${each(lines, row)}</tbody></table></div>`;
}
