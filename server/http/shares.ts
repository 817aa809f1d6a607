import type { Request, RequestHandler } from 'express';
import { setTimeout as sleep } from 'node:timers/promises';
import { askedFor, Asker } from '../sources/asker';
import { Problem } from '../../core/refusals/problem';

/**
 * What a server takes on at once. One person holds only a share of it, long answers (exports, uploads) have a small one
 * of their own, and what can't be answered in time is told so at once, instead of making everyone wait.
 */
/** A number of places, and those who wait for one in the order in which they came. */
export class Places {
  private taken = 0;
  private readonly waiting: { take: () => void; give: (error: Problem) => void }[] = [];
  /** How long one holds a place, in milliseconds, as it has been lately. */
  private usual = 15;

  constructor(
    private readonly most: number,
    private readonly patience: number,
  ) {}

  get busy(): boolean {
    return this.taken > 0;
  }

  get idle(): boolean {
    return this.taken === 0 && this.waiting.length === 0;
  }

  /**
   * Takes a place, and gives what frees it. Throws a Problem 503 where none can be had in time, some of which may be
   * gone already: told at once where that is foreseen.
   */
  async take(waited = 0): Promise<() => void> {
    const patience = Math.max(0, this.patience - waited);
    if (this.taken >= this.most) {
      const foreseen = ((this.waiting.length + 1) * this.usual) / this.most;
      if (foreseen > patience) throw busy(foreseen);
      await new Promise<void>((resolve, reject) => {
        const one = {
          take: () => {
            clearTimeout(late);
            resolve();
          },
          give: (error: Problem) => reject(error),
        };
        const late = setTimeout(() => {
          const at = this.waiting.indexOf(one);
          if (at >= 0) this.waiting.splice(at, 1);
          one.give(busy(this.patience));
        }, patience);
        this.waiting.push(one);
      });
    } else this.taken++;
    const began = performance.now();
    let freed = false;
    return () => {
      if (freed) return;
      freed = true;
      this.usual += (performance.now() - began - this.usual) / 20;
      const next = this.waiting.shift();
      // The place goes from hand to hand.
      if (next) next.take();
      else this.taken--;
    };
  }
}

function busy(milliseconds: number): Problem {
  const seconds = Math.max(1, Math.ceil(milliseconds / 1000));
  return new Problem(
    503,
    'busy',
    'Too much is asked of this server at the moment. Nothing was changed. Try again in a few seconds.',
    {},
    { 'Retry-After': String(seconds) },
  );
}

type Kind = 'short' | 'export' | 'upload';

const inAll: Record<Kind, [most: number, patience: number]> = {
  short: [16, 5000],
  export: [2, 15_000],
  upload: [8, 15_000],
};

const forOne: Record<Kind, [most: number, patience: number]> = {
  short: [4, 5000],
  export: [2, 15_000],
  upload: [4, 15_000],
};

const multipart = /^\s*multipart\/form-data\b/i;

function kindOf(req: Request): Kind {
  if (req.method === 'GET' && /\/(exports\/[^/]+|jobs\/\d+\/file)$/.test(req.path)) return 'export';
  return multipart.test(req.headers['content-type'] ?? '') ? 'upload' : 'short';
}

/**
 * What only reads may be stopped when nobody waits for it any more; what somebody sent to be kept is brought to its
 * end.
 */
const onlyReads = /\/(figures|condition|mask-sample|why)(\/|$)/;

/** What a long answer asks of the rest, in `res.locals`. */
export interface Share {
  giveWay: () => Promise<void>;
  /** Whether short questions of others are in hand. */
  isWaitedFor: () => boolean;
}

/** Lets requests through as there is room, and ends what is only read when its asker goes. */
export function shares(): RequestHandler {
  const all = new Map<Kind, Places>((Object.keys(inAll) as Kind[]).map((kind) => [kind, new Places(...inAll[kind])]));
  const each = new Map<string, Places>();
  return async (req, res, next) => {
    const kind = kindOf(req);
    const key = `${kind} ${whoOf(req)}`;
    const own = each.get(key) ?? new Places(...forOne[kind]);
    each.set(key, own);
    const asker = new Asker();
    let over = false;
    const frees: (() => void)[] = [];
    res.once('close', () => {
      over = true;
      if (!res.writableFinished) asker.leave();
      for (const free of frees) free();
      if (own.idle) each.delete(key);
    });
    // What takes long gives way to what doesn't.
    const short = all.get('short')!;
    const share: Share = { giveWay: () => giveWay(short), isWaitedFor: () => short.busy };
    Object.assign(res.locals, share);
    const came = performance.now();
    for (const places of [own, all.get(kind)!]) {
      const free = await places.take(performance.now() - came);
      // Gone while it waited: the place is the next one's.
      if (over) return free();
      frees.push(free);
    }
    if (req.method === 'GET' || onlyReads.test(req.path)) askedFor(req, asker);
    next();
  };
}

/**
 * Waits while others' short questions are in hand, but not for long: some of a long answer gets through however many
 * there are.
 */
async function giveWay(short: Places): Promise<void> {
  for (let i = 0; i < 12 && short.busy; i++) await sleep(10);
}

/** A person by their session, a program by its key, else a stranger by their address; known while they ask. */
function whoOf(req: Request): string {
  const session = /stone_porch_(?:member|builder)=([\w-]+)/.exec(req.headers.cookie ?? '')?.[1];
  const key = session ?? req.headers.authorization;
  // A key that reads as somebody's address is not theirs.
  return key === undefined ? `from ${req.ip ?? ''}` : `with ${key}`;
}
