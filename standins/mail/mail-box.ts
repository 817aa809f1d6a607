import type { AddressInfo } from 'node:net';
import { createServer, type Server } from 'node:http';
import { SMTPServer } from 'smtp-server';
import { listPage, mailPage } from './mail-pages';
import type { ReceivedMail } from './received-mail';

/** How the mail server misbehaves, for trying what becomes of it. */
interface Mood {
  /** Addresses that it refuses for good, or for now. */
  refuses?: ReadonlySet<string>;
  putsOff?: ReadonlySet<string>;
  /** Takes nothing from anybody. */
  isShut?: boolean;
}

export interface MailBox {
  smtpPort: number;
  /** Where its pages are. */
  address: string;
  readonly mails: readonly ReceivedMail[];
  mood: Mood;
  close(): Promise<void>;
}

const mostKept = 5000;

/**
 * A mail server on loopback that delivers nothing: it keeps what it gets and shows it on a page of its own. It asks
 * nobody who they are.
 */
export async function openMailBox(ports: { smtp?: number; pages?: number } = {}): Promise<MailBox> {
  const mails: ReceivedMail[] = [];
  let last = 0;
  const box: { mood: Mood } = { mood: {} };
  const refusal = (code: number, words: string): Error => Object.assign(new Error(words), { responseCode: code });
  const smtp = new SMTPServer({
    disabledCommands: ['STARTTLS', 'AUTH'],
    authOptional: true,
    logger: false,
    onConnect: (_session, done) => done(box.mood.isShut ? refusal(421, 'Closed for the day') : undefined),
    onRcptTo: ({ address }, _session, done) => {
      if (box.mood.refuses?.has(address)) return done(refusal(550, `No mailbox ${address} here`));
      if (box.mood.putsOff?.has(address)) return done(refusal(451, 'Try again later'));
      return done();
    },
    onData: (stream, session, done) => {
      const pieces: Buffer[] = [];
      stream.on('data', (piece: Buffer) => pieces.push(piece));
      stream.on('end', () => {
        const raw = Buffer.concat(pieces);
        // Read with the first mail, not at each start.
        const parses = import('mailparser').then(({ simpleParser }) => simpleParser(raw));
        parses.then((parsed) => {
          const to = session.envelope.rcptTo.map(({ address }) => address);
          mails.push({ number: ++last, to, at: new Date(), raw: raw.toString('utf8'), parsed });
          if (mails.length > mostKept) mails.shift();
          done(null);
        }, done);
      });
    },
  });
  // What breaks off is the sender's to notice.
  smtp.on('error', () => undefined);
  const pages = createServer((req, res) => {
    const number = /^\/mail\/(\d+)$/.exec(req.url ?? '')?.[1];
    const mail = number === undefined ? undefined : mails.find((each) => each.number === Number(number));
    const found = req.url === '/' || mail !== undefined;
    res.writeHead(found ? 200 : 404, {
      'content-type': 'text/html; charset=utf-8',
      'content-security-policy': "default-src 'none'; style-src 'unsafe-inline'",
    });
    res.end(mail ? mailPage(mail) : listPage(mails));
  });
  await Promise.all([listen(smtp.server as unknown as Server, ports.smtp ?? 0), listen(pages, ports.pages ?? 0)]);
  return {
    smtpPort: portOf(smtp.server as unknown as Server),
    address: `http://localhost:${portOf(pages)}`,
    mails,
    get mood() {
      return box.mood;
    },
    set mood(mood) {
      box.mood = mood;
    },
    close: async () => {
      pages.closeAllConnections();
      await Promise.all([
        new Promise<void>((resolve) => pages.close(() => resolve())),
        new Promise<void>((resolve) => smtp.close(resolve)),
      ]);
    },
  };
}

const portOf = (server: Server): number => (server.address() as AddressInfo).port;

function listen(server: Server, port: number): Promise<void> {
  return new Promise((resolve, reject) => {
    server.once('error', reject);
    server.listen({ port, host: '127.0.0.1' }, () => resolve());
  });
}
