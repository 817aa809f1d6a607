/** A part of a template: words, or the name of a value that stands there. */
export type TemplatePart = { words: string } | { value: string };

/** What is wrong with a template, for its author. */
export class TemplateError extends Error {}

const valueName = /^[\p{L}_][\p{L}\p{N}_. -]{0,140}$/u;

/**
 * The parts of a template in which values stand as `{{name}}`. Throws a TemplateError for everything else that two
 * braces could mean.
 */
export function readTemplate(text: string): TemplatePart[] {
  const parts: TemplatePart[] = [];
  let at = 0;
  for (let open = text.indexOf('{{'); open >= 0; open = text.indexOf('{{', at)) {
    const close = text.indexOf('}}', open);
    const line = text.slice(0, open).split('\n').length;
    if (close < 0) throw new TemplateError(`In line ${line} {{ is not closed by }}. Write values as {{name}}.`);
    const value = text.slice(open + 2, close).trim();
    if (!valueName.test(value) || text[close + 2] === '}')
      throw new TemplateError(
        `In line ${line} {{${value}}} is no name of a value. Write values as {{name}}: they stand as the words that ` +
          'they are.',
      );
    if (open > at) parts.push({ words: text.slice(at, open) });
    parts.push({ value });
    at = close + 2;
  }
  if (at < text.length) parts.push({ words: text.slice(at) });
  return parts;
}

/** The names of the values that a template asks, each once. */
export function valuesOf(text: string): string[] {
  return [...new Set(readTemplate(text).flatMap((part) => ('value' in part ? [part.value] : [])))];
}

/** The template with each value's name as `named` says. */
export function withValueNames(text: string, named: (value: string) => string): string {
  return readTemplate(text)
    .map((part) => ('words' in part ? part.words : `{{${named(part.value)}}}`))
    .join('');
}
