import { MailServers } from '../server/mail/mail-server';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';
import { Setting } from '../server/store/models';
import { openStore, readSetting } from '../server/store/store';
import { openMailBox, type MailBox } from '../standins/mail/mail-box';

/**
 * The demo's own mail server, which keeps what it gets, in the place of one that would deliver; null where there is no
 * demo, or builders have set another.
 */
export async function openDemoMails(
  database: DatabaseAddress,
  ownSchema: string,
  secretKey: Buffer,
): Promise<MailBox | null> {
  const store = await openStore(database, ownSchema);
  try {
    const servers = new MailServers(secretKey, true);
    const kept = await servers.read();
    if ((await readSetting('demo')) === null || (kept && kept.sender !== demoSender.sender)) return null;
    const box = await openMailBox();
    await servers.save({ ...demoSender, host: '127.0.0.1', port: box.smtpPort });
    await Setting.upsert({ name: 'mail box', value: box.address });
    return box;
  } finally {
    await store.close();
  }
}

const demoSender = {
  security: 'none',
  user: '',
  password: '',
  sender: 'wells@alder-fen.example.org',
  senderName: 'Alder Fen Wells',
} as const;
