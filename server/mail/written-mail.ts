import { convert } from 'html-to-text';
import { marked } from 'marked';
import sanitizeHtml from 'sanitize-html';
import { type MailWords } from '../../core/mail/mail-words';
import { readTemplate } from '../../core/mail/template';

/** A mail as it is kept and sent. */
export interface WrittenMail {
  subject: string;
  text: string;
  html: string;
}

/** Values of a mail by their names. */
export type MailWordValues = Readonly<Record<string, string>>;

/** A part that is the same for everybody, or the name of a value. */
type Part = string | { value: string };

/** A mail's words, read once and written for many. */
export interface MailWriter {
  /** `secrets` are the values that stand as their own marks until the mail is sent. */
  written(values: MailWordValues): WrittenMail;
}

/** What no subject and no name before an address may hold: it would begin another line of the mail's head. */
// eslint-disable-next-line no-control-regex
const controls = /[\u0000-\u001F\u007F-\u009F\u2028\u2029]+/g;

const oneLine = (text: string): string => text.replaceAll(controls, ' ').trim();

/** What stands for a value while Markdown is read: letters that Markdown and HTML leave as they are. */
const standIn = (i: number): string => `xvaluex${i}x`;
const standIns = /xvaluex(\d+)x/;

/**
 * Reads the words of a mail. Values are put in after Markdown and the sanitizer have done their work, as words that
 * HTML leaves alone: whatever a person is called makes neither marks nor tags. Only `{{link}}` may be where a link
 * leads.
 */
export function mailWriter(words: MailWords): MailWriter {
  const values: string[] = [];
  const source = readTemplate(words.text)
    .map((part) => {
      if ('words' in part) return part.words.replaceAll(/xvaluex/g, 'xvalue x');
      values.push(part.value);
      return standIn(values.length - 1);
    })
    .join('');
  const rendered = marked.parse(source, { async: false, gfm: true, breaks: true });
  const clean = sanitizeHtml(rendered, {
    allowedTags: [
      'h1',
      'h2',
      'h3',
      'p',
      'br',
      'strong',
      'em',
      'del',
      'a',
      'ul',
      'ol',
      'li',
      'blockquote',
      'hr',
      'code',
    ],
    allowedAttributes: { a: ['href'] },
    allowedSchemes: ['https', 'http', 'mailto'],
    transformTags: {
      a: (tagName, { href = '' }) => {
        const at = standIns.exec(href);
        const isLink = at?.[0] === href && values[Number(at[1])] === 'link';
        const attribs: Record<string, string> = !at || isLink ? { href: isLink ? linkStandIn : href } : {};
        return { tagName, attribs };
      },
    },
  }).replaceAll(linkStandIn, standIn(values.indexOf('link')));
  const html = partsOf(clean, values);
  const plain = convert(clean, {
    wordwrap: 78,
    selectors: [
      { selector: 'h1', options: { uppercase: false } },
      { selector: 'h2', options: { uppercase: false } },
      { selector: 'h3', options: { uppercase: false } },
    ],
  });
  const text = partsOf(plain, values);
  const subject = readTemplate(words.subject).map((part): Part => ('words' in part ? part.words : part));
  return {
    written: (given) => ({
      subject: oneLine(filled(subject, given, oneLine)),
      text: filled(text, given, (value) => value),
      html: page(filled(html, given, escapeHtml)),
    }),
  };
}

/** An address that the sanitizer lets through, in the place of the link. */
const linkStandIn = 'https://link.invalid/xlinkx';

function partsOf(text: string, values: readonly string[]): Part[] {
  return text.split(/(xvaluex\d+x)/).map((part): Part => {
    const at = standIns.exec(part);
    return at?.[0] === part ? { value: values[Number(at[1])]! } : part;
  });
}

function filled(parts: readonly Part[], values: MailWordValues, written: (value: string) => string): string {
  return parts
    .map((part) =>
      typeof part === 'string' ? part : written(Object.hasOwn(values, part.value) ? values[part.value]! : ''),
    )
    .join('');
}

const signs: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' };
/** A text as it stands in HTML, within an attribute too. */
export const escapeHtml = (text: string): string => text.replaceAll(/[&<>"']/g, (sign) => signs[sign]!);

/** Nothing but words: a mail that needs no pictures needs no leave to show them. */
const page = (body: string): string =>
  '<!doctype html><html><head><meta charset="utf-8"></head>' +
  '<body style="font-family: sans-serif; line-height: 1.5; max-width: 36em; color: #21282b; background: #ffffff">' +
  `${body}</body></html>`;
