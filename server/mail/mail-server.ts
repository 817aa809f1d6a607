import Joi from 'joi';
import { createTransport, type Transporter } from 'nodemailer';
import { emailAddress } from './email-schema';
import { Problem } from '../../core/refusals/problem';
import { seal, unseal } from '../store/secret';
import { reachableAddress } from '../sources/reachable';
import { Setting } from '../store/models';
import { readSetting } from '../store/store';

/** How the way to a mail server is kept from others: not at all, asked for once there (RFC 3207), or from the start. */
export const mailSecurities = ['none', 'starttls', 'tls'] as const;

/** The mail server through which an installation sends. */
export interface MailServer {
  host: string;
  port: number;
  security: (typeof mailSecurities)[number];
  /** Empty where it asks nobody who they are. */
  user: string;
  /** The address that mails come from, and the name before it. */
  sender: string;
  senderName: string;
}

/** As builders send it; an empty password keeps the one that is there. */
export type MailServerForm = MailServer & { password: string };

export const mailServerKeys = {
  host: Joi.string().hostname().max(255).required(),
  port: Joi.number().port().required(),
  security: Joi.valid(...mailSecurities).required(),
  user: Joi.string().max(255).allow('').default(''),
  sender: emailAddress.required(),
  senderName: Joi.string()
    .max(120)
    .pattern(/^[^\r\n]*$/, 'one line')
    .allow('')
    .default(''),
};

const setting = 'mail server';
const sealName = 'mail/password';

/** The mail server of an installation, with its password sealed under the installation's key. */
export class MailServers {
  constructor(
    private readonly key: Buffer,
    private readonly privateAddresses: boolean,
  ) {}

  /** Null where none is set. */
  async read(): Promise<(MailServer & { sealedPassword: string }) | null> {
    const kept = await readSetting(setting);
    return kept === null ? null : (JSON.parse(kept) as MailServer & { sealedPassword: string });
  }

  async save({ password, ...form }: MailServerForm): Promise<void> {
    await reachableAddress(form.host, this.privateAddresses);
    const kept = await this.read();
    // The password that is there is for the server that is there, and goes to no other.
    const isSame = kept?.host === form.host && kept.user === form.user;
    if (password === '' && form.user !== '' && !isSame)
      throw new Problem(422, 'invalid-values', 'Some values are wrong.', {
        fields: { password: 'Type the password: host or user are others than before.' },
      });
    const sealedPassword = password === '' && kept && isSame ? kept.sealedPassword : seal(this.key, sealName, password);
    await Setting.upsert({ name: setting, value: JSON.stringify({ ...form, sealedPassword }) });
  }

  /** A way to the server; null where none is set. Throws a Problem where its password can't be read. */
  async open(): Promise<{ transport: Transporter; server: MailServer } | null> {
    const kept = await this.read();
    if (!kept) return null;
    const password = unseal(this.key, sealName, kept.sealedPassword);
    if (password === null)
      throw new Problem(503, 'mail-away', "The mail server's password can't be read. Type it again under People.");
    const host = await reachableAddress(kept.host, this.privateAddresses);
    const transport = createTransport({
      host,
      port: kept.port,
      secure: kept.security === 'tls',
      requireTLS: kept.security === 'starttls',
      ignoreTLS: kept.security === 'none',
      tls: { servername: kept.host },
      ...(kept.user === '' ? {} : { auth: { user: kept.user, pass: password } }),
      pool: true,
      maxConnections: 3,
      connectionTimeout: 10_000,
      greetingTimeout: 10_000,
      socketTimeout: 30_000,
      disableFileAccess: true,
      disableUrlAccess: true,
    });
    return { transport, server: kept };
  }
}
