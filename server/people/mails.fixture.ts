import { expect, vi } from 'vitest';
import type { PortalDefinition } from '../../core/definition/definition';
import { raw } from '../../core/sql/sql';
import { demoPassword } from '../../demo/load';
import { openMailBox, type MailBox } from '../../standins/mail/mail-box';
import type { ReceivedMail } from '../../standins/mail/received-mail';
import { demoServer, type Client } from '../../test/server';
import { saveAddress } from '../mail/own-address';
import type { DatabaseAddress } from '../sources/connect-sequelize';
import { Setting } from '../store/models';
import { Member, OutboxMail } from '../store/people-models';

export const bench = '/builder/portals/alder-fen';
export const portal = '/portals/alder-fen';
export const ines = 'ines.brannock@example.org';
export const goodPassword = 'well past the alders at dawn';

/** Waits for what other threads and servers do. */
const soon = <T>(look: () => T | Promise<T>): Promise<T> => vi.waitFor(look, { timeout: 20_000, interval: 20 });

/** The demo's portal with a mail server that keeps what it gets, and nobody who has been in or has a password. */
export class MailedPortal {
  private constructor(
    readonly demo: Awaited<ReturnType<typeof demoServer>>,
    readonly box: MailBox,
    readonly builder: Client,
    private readonly schema: string,
  ) {}

  static async open(database: DatabaseAddress, schema: string): Promise<MailedPortal> {
    const box = await openMailBox();
    const demo = await demoServer(database, schema, `${schema}_own`);
    const builder = demo.client();
    await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
    await Member.update({ passwordHash: null, lastIn: null }, { where: {} });
    await saveAddress('https://wells.example.org');
    // Not the demo: what is secret stays so.
    await Setting.destroy({ where: { name: 'demo' } });
    const server = {
      host: '127.0.0.1',
      port: box.smtpPort,
      security: 'none',
      user: '',
      password: '',
      sender: 'wells@alder-fen.example.org',
      senderName: 'Alder Fen',
    };
    expect((await builder.send('PUT', `${bench}/mail-server`, server)).status).toBe(204);
    return new MailedPortal(demo, box, builder, schema);
  }

  async close(): Promise<void> {
    await this.demo.server.close();
    await this.box.close();
  }

  client = (): Client => this.demo.client();

  run = (text: string): Promise<number> => this.demo.server.services.sources.get(this.schema).write(raw(text));

  async idOf(email: string): Promise<number> {
    return (await Member.findOne({ where: { email, onRoster: true }, rejectOnEmpty: true })).id;
  }

  mailsTo = (email: string): ReceivedMail[] => this.box.mails.filter(({ to }) => to.includes(email));

  /** The newest mail to an address, once there are more than before. */
  newest(email: string, before: number): Promise<ReceivedMail> {
    return soon(() => {
      expect(this.mailsTo(email).length).toBeGreaterThan(before);
      return this.mailsTo(email).at(-1)!;
    });
  }

  /** The newest mail to an address as the outbox has it, once it is in a state. */
  settled(recipient: string, state: string): Promise<OutboxMail> {
    return soon(async () => {
      const mail = await OutboxMail.findOne({ where: { recipient }, order: [['id', 'DESC']], rejectOnEmpty: true });
      expect(mail.state).toBe(state);
      return mail;
    });
  }

  send = (order: object) => this.builder.ended(`${bench}/jobs`, `${bench}/invitations`, order);

  async draftWith(change: (draft: PortalDefinition) => void) {
    const { draft } = (await this.builder.get(bench)).body as { draft: PortalDefinition };
    change(draft);
    return this.builder.send('PUT', `${bench}/definition`, draft);
  }

  async publish() {
    const { revision } = (await this.builder.get(bench)).body;
    return this.builder.post(`${bench}/versions`, { revision, note: '' });
  }

  async withSignIn(signIn: NonNullable<PortalDefinition['signIn']>): Promise<void> {
    expect((await this.draftWith((draft) => void (draft.signIn = signIn))).status).toBe(200);
    expect((await this.publish()).status).toBe(201);
  }
}

export const tokenIn = (mail: ReceivedMail): string => /come-in#([\w-]+)/.exec(mail.parsed.text!)![1]!;
