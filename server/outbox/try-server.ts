import type { MailServers } from '../mail/mail-server';
import { Problem } from '../../core/refusals/problem';

/** Sends a mail at once, past the outbox, and gives what the mail server said. */
export async function tryServer(servers: MailServers, recipient: string): Promise<{ fine: boolean; answer: string }> {
  const way = await servers.open();
  if (!way) throw new Problem(409, 'no-mail-server', 'No mail server is set yet.');
  const { transport, server } = way;
  try {
    const { response } = (await transport.sendMail({
      from: { name: server.senderName, address: server.sender },
      to: recipient,
      subject: 'The mail server works',
      text: 'This mail was sent to try the mail server of Stone Porch. It asks nothing of you.',
      headers: { 'Auto-Submitted': 'auto-generated' },
    })) as { response: string };
    return { fine: true, answer: response };
  } catch (error) {
    return { fine: false, answer: (error as Error).message };
  } finally {
    transport.close();
  }
}
