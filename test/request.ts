import { Agent, request } from 'node:http';

/**
 * Connections are let go before a server thinks of it (five seconds, Node's own), so that no request meets one that is
 * being closed.
 */
const agent = new Agent({ keepAlive: true, timeout: 2000 });

interface Answered {
  status: number;
  headers: Headers;
  text: string;
}

/** Sends a request and reads the whole answer, with a quarter of the work that `fetch` makes of it. */
export function answerTo(
  url: string,
  { method, headers, body }: { method: string; headers: Record<string, string>; body?: string },
): Promise<Answered> {
  return new Promise((resolve, reject) => {
    // Node leaves it out where a method has no body as a rule.
    const length = body === undefined ? {} : { 'content-length': String(Buffer.byteLength(body)) };
    const sent = request(url, { method, headers: { ...headers, ...length }, agent }, (response) => {
      let text = '';
      response
        .setEncoding('utf8')
        .on('data', (part: string) => (text += part))
        .on('error', reject)
        .on('end', () => {
          const told = new Headers();
          for (let i = 0; i < response.rawHeaders.length; i += 2)
            told.append(response.rawHeaders[i]!, response.rawHeaders[i + 1]!);
          resolve({ status: response.statusCode!, headers: told, text });
        });
    });
    sent.on('error', reject);
    sent.end(body);
  });
}
