import type { PortalDefinition } from '../definition/definition';
import { findColumn, findTable, isClosed, type Catalogue } from '../table/catalogue';
import { columnValue, type MailKind, type MailWords } from '../mail/mail-words';
import { TemplateError, valuesOf } from '../mail/template';

/** Values that every mail can say. */
const common = ['name', 'organisation', 'email', 'portal'] as const;

/** What a mail of a kind is for; without the needed ones it would be good for nothing. */
export const mailValues: Record<MailKind, { needed: readonly string[]; also: readonly string[] }> = {
  invitation: { needed: ['link'], also: ['until'] },
  reminder: { needed: ['link'], also: ['until'] },
  code: { needed: ['code'], also: ['until'] },
  forgotten: { needed: ['link'], also: ['until'] },
  'sign-up invitation': { needed: ['link'], also: [] },
  'sign-up': { needed: ['link'], also: ['until'] },
  'known already': { needed: ['link'], also: [] },
  approval: { needed: [], also: ['link'] },
  'changed address': { needed: [], also: ['link'] },
};

const standard: Record<MailKind, MailWords> = {
  invitation: {
    subject: 'Your access to {{portal}}',
    text:
      'Hello {{name}},\n\nyou can now see and look after your own records at **{{portal}}**.\n\n' +
      '[Come in]({{link}})\n\nThe link works once, until {{until}}. If you did not expect this, you need do nothing.',
  },
  reminder: {
    subject: 'Your access to {{portal}} is waiting',
    text:
      'Hello {{name}},\n\nwe wrote to you before: your own records are waiting for you at **{{portal}}**.\n\n' +
      '[Come in]({{link}})\n\nThe link works once, until {{until}}.',
  },
  code: {
    subject: '{{code}} is your code for {{portal}}',
    text:
      'Hello {{name}},\n\nyour code to sign in at {{portal}} is\n\n# {{code}}\n\nIt works once, until {{until}}. ' +
      'Nobody of ours will ever ask you for it. If you did not ask for it, you need do nothing.',
  },
  forgotten: {
    subject: 'A new password for {{portal}}',
    text:
      'Hello {{name}},\n\nsomebody, you we hope, asked for a new password at {{portal}}.\n\n' +
      '[Choose a new password]({{link}})\n\nThe link works once, until {{until}}. If it was not you, do nothing: ' +
      'your password stays as it is.',
  },
  'sign-up invitation': {
    subject: 'You can come in at {{portal}}',
    text:
      'Hello,\n\nyou can come in at **{{portal}}** and look after your own records there.\n\n' +
      '[Come in]({{link}})\n\nIf you did not expect this, you need do nothing.',
  },
  'sign-up': {
    subject: 'Is this your address? {{portal}}',
    text:
      'Hello,\n\nsomebody, you we hope, asked to come in at **{{portal}}** with this address.\n\n' +
      '[Yes, it is mine]({{link}})\n\nThe link works once, until {{until}}. If it was not you, do nothing: nothing ' +
      'is kept of it.',
  },
  'known already': {
    subject: 'You can come in at {{portal}} already',
    text:
      'Hello {{name}},\n\nsomebody, you we hope, asked to come in at **{{portal}}** with this address, which it ' +
      'knows already.\n\n[Sign in]({{link}})',
  },
  approval: {
    subject: 'You can come in at {{portal}}',
    text: 'Hello {{name}},\n\nyour request was agreed to.\n\n[Come in]({{link}})',
  },
  'changed address': {
    subject: 'Your address at {{portal}} was changed',
    text:
      'Hello {{name}},\n\n{{portal}} now knows you by another e-mail address, so this one no longer lets you in. If ' +
      'that is not right, write to the people who run it.',
  },
};

/** What a mail of a portal says: its own words, else ours. */
export function mailWords(definition: Pick<PortalDefinition, 'mails'>, kind: MailKind): MailWords {
  return definition.mails?.[kind] ?? standard[kind];
}

/** What is wrong with the words of a mail, in a sentence; null when nothing is. */
export function mailProblem(
  definition: PortalDefinition,
  catalogue: Catalogue,
  kind: MailKind,
  words: MailWords,
): string | null {
  let asked: string[];
  try {
    asked = [...new Set([...valuesOf(words.subject), ...valuesOf(words.text)])];
  } catch (error) {
    if (error instanceof TemplateError) return error.message;
    throw error;
  }
  const { needed, also } = mailValues[kind];
  const missing = needed.find((value) => !asked.includes(value));
  if (missing) return `The mail does not say {{${missing}}}, and is good for nothing without it.`;
  const open: readonly string[] = [...common, ...needed, ...also];
  for (const value of asked) {
    if (open.includes(value)) continue;
    const column = columnValue(value);
    const said = `{{${value}}} is no value of this mail. It can say ${open.map((each) => `{{${each}}}`).join(', ')}`;
    if (!column || !definition.rosters.some(({ table }) => table === column.table))
      return `${said}, and columns of a roster as {{table.column}}.`;
    const table = findTable(catalogue, column.table);
    if (!table || !findColumn(table, column.column)) return `${said}; ${column.table} has no ${column.column}.`;
    if (isClosed(table, column.column)) return `The ceiling lets nobody read ${value}, so no mail says it.`;
  }
  return null;
}
