import type { Told } from '../../server/http/endpoint';

/** An error that the server said (RFC 9457). */
export class ServerProblem extends Error {
  constructor(
    readonly status: number,
    readonly type: string,
    detail: string,
    readonly body: Record<string, unknown>,
  ) {
    super(detail);
  }
}

/** What an endpoint is asked with: the parts of its address, its query and its body, as far as it has them. */
export type Asked<T extends Told> = ([keyof T['params']] extends [never]
  ? object
  : { params: { [Name in keyof T['params']]: string | number } }) &
  ([keyof T['query']] extends [never] ? object : { query?: Partial<T['query']> }) &
  (unknown extends T['body'] ? { body: unknown } : T['body'] extends undefined ? object : { body: T['body'] });

/** Nothing need be said where everything may be left out. */
type Said<T extends Told> = object extends Asked<T> ? [asked?: Asked<T>] : [asked: Asked<T>];

/** Endpoints as the server declares them, by method and path. */
type Api = Record<string, Told>;

/** Asks an endpoint and gives its answer; throws ServerProblem, whose message can be shown. */
export type Ask<A extends Api> = <K extends keyof A & string>(key: K, ...said: Said<A[K]>) => Promise<A[K]['answer']>;

/** Asks one endpoint, for what is told which at the time. */
export type AskOne<A extends Api, K extends keyof A> = (key: K, asked: Asked<A[K]>) => Promise<A[K]['answer']>;

/** The address of an endpoint, to link to or to know an answer by. */
export type AddressOf<A extends Api> = <K extends keyof A & string>(key: K, ...said: Said<A[K]>) => string;

type AnyAsked = { params?: Record<string, string | number>; query?: object; body?: unknown };

/** Asks the endpoints that stand under an address of the API. */
export function askAt<A extends Api>(base: string): Ask<A> {
  return (key, ...[asked = {}]) => send(base, key, asked as AnyAsked);
}

/** As `askAt`, for their addresses on this server. */
export function addressAt<A extends Api>(base: string): AddressOf<A> {
  return (key, ...[asked = {}]) => `/api${pathOf(base, key, asked as AnyAsked)}`;
}

/** Parts of the query that are empty are left out. */
function pathOf(base: string, key: string, { params = {}, query = {} }: AnyAsked): string {
  const path = key
    .slice(key.indexOf(' ') + 1)
    .replaceAll(/:(\w+)/g, (_, name: string) => encodeURIComponent(String(params[name])));
  const parts = Object.entries(query).flatMap(([name, value]) =>
    value === undefined || value === null || value === '' ? [] : [[name, String(value)]],
  );
  const said = new URLSearchParams(parts).toString();
  return `${base}${path}${said === '' ? '' : `?${said}`}`;
}

async function send<T>(base: string, key: string, asked: AnyAsked): Promise<T> {
  const { body } = asked;
  const isJson = body !== undefined && !(body instanceof FormData);
  let response: Response;
  try {
    response = await fetch(`/api${pathOf(base, key, asked)}`, {
      method: key.slice(0, key.indexOf(' ')),
      headers: { 'x-stone-porch': 'web', ...(isJson ? { 'content-type': 'application/json' } : {}) },
      body: isJson ? JSON.stringify(body) : body,
    });
  } catch {
    throw new ServerProblem(
      0,
      'no-connection',
      "The server can't be reached. Check your connection and try again; nothing is lost.",
      {},
    );
  }
  const text = await response.text();
  const answer = text === '' ? undefined : (JSON.parse(text) as unknown);
  if (response.ok) return answer as T;
  const problem = (answer ?? {}) as Record<string, unknown>;
  throw new ServerProblem(
    response.status,
    String(problem.type ?? '')
      .split(':')
      .at(-1)!,
    String(problem.detail ?? 'Something went wrong. Try again.'),
    problem,
  );
}

export function problemText(error: unknown): string {
  return error instanceof Error ? error.message : 'Something went wrong. Try again.';
}

/** The form of one file, as endpoints take it. */
export function formOf(file: File): FormData {
  const form = new FormData();
  form.append('file', file);
  return form;
}
