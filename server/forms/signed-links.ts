import { createHmac, hkdfSync, timingSafeEqual } from 'node:crypto';
import { inputsOf, type Form } from '../../core/definition/form';
import { Problem } from '../../core/refusals/problem';

/** What a link to a form says: by column, as it is sent; and the last day on which it may be used. */
interface Signed {
  values: Record<string, unknown>;
  until: string | null;
}

/** What a form takes from a link alone. */
export const signedColumns = (form: Pick<Form, 'steps'>): string[] =>
  inputsOf(form).flatMap(({ column, signed }) => (signed ? [column] : []));

const needsLink = () =>
  new Problem(403, 'needs-link', 'This is sent by a link that was made for you. Open it again by that link, as it is.');

/** Makes and reads links with values that whoever has one can't change. */
export class SignedLinks {
  private readonly key: Buffer;

  constructor(secretKey: Buffer) {
    this.key = Buffer.from(hkdfSync('sha256', secretKey, '', 'values in links to forms', 32));
  }

  /** What stands in the link: the values, readable, and what proves that they are ours, for this form. */
  sign(portalId: number, form: string, signed: Signed): string {
    const text = Buffer.from(JSON.stringify(signed)).toString('base64url');
    return `${text}.${this.proof(portalId, form, text)}`;
  }

  /** What a link says for a form, by column: of each that is signed its value, or null. Throws a Problem for others. */
  read(portalId: number, form: Form, link: string | undefined, today: string): Record<string, unknown> {
    const columns = signedColumns(form);
    if (columns.length === 0) return {};
    const [text = '', proof = ''] = (link ?? '').split('.');
    const [given, known] = [Buffer.from(proof), Buffer.from(this.proof(portalId, form.id, text))];
    if (given.length !== known.length || !timingSafeEqual(given, known)) throw needsLink();
    const { values, until } = JSON.parse(Buffer.from(text, 'base64url').toString()) as Signed;
    if (until !== null && until < today)
      throw new Problem(410, 'link-over', `This link could be used until ${until}. Ask for a new one.`);
    return Object.fromEntries(columns.map((column) => [column, values[column] ?? null]));
  }

  private proof(portalId: number, form: string, text: string): string {
    return createHmac('sha256', this.key)
      .update(JSON.stringify([portalId, form, text]))
      .digest('base64url');
  }
}
