/** What somebody was told; null where nobody told anything: the connection broke, or the proxy spoke for a server. */
export type Told = { status: number; body: any } | null;

/** No answer for so long is none, in milliseconds: longer than anything is frozen. */
const patience = 45_000;

/** One person or program at the product, who comes in by all its doors in turn. */
export class Caller {
  private readonly cookies = new Map<string, string>();
  private turn = 0;
  /** How often each door told something. */
  readonly answered = new Map<string, number>();

  constructor(
    private readonly doors: readonly string[],
    private readonly headers: Record<string, string> = {},
  ) {}

  get = (path: string): Promise<Told> => this.send('GET', path);
  post = (path: string, body: unknown = {}): Promise<Told> => this.send('POST', path, body);

  async send(method: string, path: string, body?: unknown, more: Record<string, string> = {}): Promise<Told> {
    const isForm = body instanceof FormData;
    const door = this.doors[this.turn++ % this.doors.length]!;
    try {
      const response = await fetch(`${door}/api${path}`, {
        method,
        headers: {
          'x-stone-porch': 'test',
          cookie: [...this.cookies].map((pair) => pair.join('=')).join('; '),
          ...(isForm ? {} : { 'content-type': 'application/json' }),
          ...this.headers,
          ...more,
        },
        body: body === undefined ? undefined : isForm ? body : JSON.stringify(body),
        signal: AbortSignal.timeout(patience),
      });
      const text = await response.text();
      for (const cookie of response.headers.getSetCookie()) {
        const [name, value] = cookie.split(';')[0]!.split('=') as [string, string];
        this.cookies.set(name, value);
      }
      const isOurs = text === '' || /\bjson\b/.test(response.headers.get('content-type') ?? '');
      if (!isOurs) return null;
      this.answered.set(door, (this.answered.get(door) ?? 0) + 1);
      return { status: response.status, body: text === '' ? null : JSON.parse(text) };
    } catch {
      return null;
    }
  }
}

export type Outcome = 'done' | 'denied' | 'unknown';

/**
 * What an answer says of what was asked for: that it is done; that it is surely not; or nothing, since no answer came,
 * or one that says that nobody knows.
 */
export function outcomeOf(told: Told): Outcome {
  if (told === null) return 'unknown';
  if (told.status < 300) return 'done';
  return ['outcome-unknown', 'being-done'].includes(typeOf(told)) ? 'unknown' : 'denied';
}

/** Counts of what was told, each kind of refusal by itself. */
export class Counts {
  readonly all: Record<string, number> = {};

  add(what: string): void {
    this.all[what] = (this.all[what] ?? 0) + 1;
  }

  /** What an answer says of what was asked for, counted. */
  of(told: Told): Outcome {
    const outcome = outcomeOf(told);
    this.add(outcome === 'denied' ? `denied, ${told!.status} ${typeOf(told)}` : outcome);
    return outcome;
  }
}

/** Whether nobody will ever know: whoever asks again by the same id is told the same. */
export const staysUnknown = (told: Told): boolean => told?.status === 409 && typeOf(told) === 'outcome-unknown';

/** The kind of problem that was told, without what all of ours begin with; nothing where it is none. */
const typeOf = (told: Told): string => (told?.body as { type?: string } | null)?.type?.split(':').at(-1) ?? '';
