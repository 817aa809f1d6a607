import { request as plainRequest, type IncomingMessage, type RequestOptions } from 'node:http';
import { request as safeRequest } from 'node:https';
import { isIPv6 } from 'node:net';
import { addressProblem } from '../../core/definition/outside-address';
import { Problem } from '../../core/refusals/problem';
import { reachableAddress, type NameServer } from '../sources/reachable';

/** So long an answer may take, in milliseconds, and so large it may be, in bytes. */
const longest = 10_000;
const largest = 64 * 1024;
/** So long it may take until a file is fetched, in milliseconds. */
const longestFetch = 5 * 60_000;

const jsonHeaders = { 'content-type': 'application/json', accept: 'application/json' };

/** What an address answered. */
export interface CallAnswer {
  status: number;
  text: string;
  /** It was longer than is read. */
  isCut: boolean;
  /** Where it says so: after how many milliseconds it wants to be asked again. */
  after: number | null;
}

interface CallOptions {
  privateAddresses: boolean;
  /** So long an answer may take, in milliseconds. */
  within?: number;
  /** Asked for addresses in place of the system's. */
  named?: NameServer;
}

/** Nothing was answered that could be understood, in words. */
export class CallFailed extends Error {
  override name = 'CallFailed';
}

/**
 * Sends JSON to an address and gives what it answers, whatever that be; redirects are not followed. The connection goes
 * to the very address that was looked at before: what a name server says a moment later makes no difference. Throws
 * CallFailed.
 */
export async function callOut(
  address: string,
  body: string,
  headers: Record<string, string>,
  options: CallOptions,
): Promise<CallAnswer> {
  const sent = { ...headers, ...jsonHeaders, 'content-length': String(Buffer.byteLength(body)) };
  return reached(address, { method: 'POST', headers: sent, body }, options, async (answer, signal) => {
    const { text, isCut } = await inTime(readText(answer), signal);
    return { status: answer.statusCode!, text, isCut, after: afterOf(answer) };
  });
}

/** What an address gave when it was fetched. */
interface Fetched {
  status: number;
  bytes: AsyncIterable<Uint8Array>;
}

/**
 * Fetches what an address gives, as `callOut` calls it, and hands it to `take` as it comes; what that refuses is thrown
 * as it is. Throws CallFailed.
 */
export async function fetchOut<T>(
  address: string,
  headers: Record<string, string>,
  options: CallOptions,
  take: (fetched: Fetched) => Promise<T>,
): Promise<T> {
  const sent = { ...headers, accept: '*/*' };
  const within = options.within ?? longestFetch;
  return reached(address, { method: 'GET', headers: sent, body: '' }, { ...options, within }, (answer, signal) =>
    inTime(take({ status: answer.statusCode!, bytes: answer as AsyncIterable<Buffer> }), signal).finally(() =>
      answer.destroy(),
    ),
  );
}

interface Sent {
  method: 'GET' | 'POST';
  headers: Record<string, string>;
  body: string;
}

async function reached<T>(
  address: string,
  sent: Sent,
  { privateAddresses, within = longest, named }: CallOptions,
  take: (answer: IncomingMessage, signal: AbortSignal) => Promise<T>,
): Promise<T> {
  const problem = addressProblem(address);
  if (problem !== null) throw new CallFailed(problem);
  const url = new URL(address);
  if (url.protocol === 'http:' && !privateAddresses)
    throw new CallFailed('Only https:// is called from here: what is sent must not be read on its way.');
  // Brackets stand around addresses of six groups, and a dot may end a name.
  const host = url.hostname.replace(/^\[(.*)\]$/, '$1').replace(/\.$/, '');
  const signal = AbortSignal.timeout(within);
  try {
    const at = await inTime(reachableAddress(host, privateAddresses, named), signal);
    return await take(await answered(url, sent, at, signal), signal);
  } catch (error) {
    throw failureOf(error, signal, within);
  }
}

function answered(
  url: URL,
  { method, headers, body }: Sent,
  at: string,
  signal: AbortSignal,
): Promise<IncomingMessage> {
  const family = isIPv6(at) ? 6 : 4;
  const lookup: NonNullable<RequestOptions['lookup']> = (_host, { all }, done) =>
    all ? done(null, [{ address: at, family }]) : done(null, at, family);
  return new Promise((resolve, reject) => {
    const send = url.protocol === 'https:' ? safeRequest : plainRequest;
    const sent = send(url, {
      method,
      signal,
      lookup,
      agent: false,
      headers: { ...headers, 'user-agent': 'Stone Porch' },
    });
    sent.once('response', resolve).once('error', reject).end(body);
  });
}

async function readText(answer: IncomingMessage): Promise<{ text: string; isCut: boolean }> {
  const pieces: Buffer[] = [];
  let length = 0;
  for await (const piece of answer as AsyncIterable<Buffer>) {
    pieces.push(piece);
    length += piece.length;
    if (length > largest) {
      answer.destroy();
      break;
    }
  }
  return { text: Buffer.concat(pieces).subarray(0, largest).toString('utf8'), isCut: length > largest };
}

/** The seconds of `Retry-After` (RFC 9110, 10.2.3); a date there is not gone by. */
function afterOf({ headers }: IncomingMessage): number | null {
  const text = headers['retry-after'] ?? '';
  return /^\d{1,6}$/.test(text) ? Number(text) * 1000 : null;
}

function inTime<T>(work: Promise<T>, signal: AbortSignal): Promise<T> {
  return new Promise((resolve, reject) => {
    const late = () => reject(signal.reason as Error);
    if (signal.aborted) late();
    signal.addEventListener('abort', late, { once: true });
    work.then(resolve, reject).finally(() => signal.removeEventListener('abort', late));
  });
}

function failureOf(error: unknown, signal: AbortSignal, within: number): unknown {
  if (error instanceof CallFailed) return error;
  if (signal.aborted) return new CallFailed(`It did not answer within ${within / 1000} seconds.`);
  if (error instanceof Problem) return new CallFailed(error.message);
  const { code = '' } = error as { code?: string };
  // What went wrong on our side, with what it gave.
  if (code === '') return error;
  if (code === 'ECONNREFUSED') return new CallFailed('Nothing listens at its address.');
  if (/CERT|SIGNED|ALTNAME|LEAF_SIGNATURE/.test(code))
    return new CallFailed(`Its certificate is not one that can be trusted (${code}).`);
  return new CallFailed(`The connection broke off before it answered (${code}).`);
}
