import { setTimeout as sleep } from 'node:timers/promises';
import { Counts, type Caller, type Outcome, type Told } from './caller';
import { Wrong, type Stream } from './stream';

const portal = '/portals/alder-fen';
const bring = `${portal}/bring/weekly-plan`;
const columns = [
  { header: 'well', column: 'well_id', by: 'code' },
  { header: 'planned for', column: 'planned_for' },
  { header: 'sampler', column: 'sampler_id' },
  { header: 'asked', column: 'asked_on' },
];

/** A steward brings one file after another, each of a day of its own; whoever looks sees all of its lines or none. */
export class Bringing implements Stream {
  readonly name = 'files brought';
  readonly isSteady = false;
  private readonly ended = new Map<string, Outcome>();
  private readonly did = new Counts();

  constructor(
    private readonly steward: Caller,
    private readonly looker: Caller,
    /** `each` lines a file; `first` is the day of the first, counted from 2031. */
    private readonly lines: { well: string; sampler: number; each: number; first: number },
    /** How many visits each day has, in the records themselves. */
    private readonly found: () => Promise<Map<string, number>>,
  ) {}

  async turn(): Promise<boolean> {
    const day = new Date(Date.UTC(2031, 0, this.lines.first + this.ended.size)).toISOString().slice(0, 10);
    const outcome = await this.bring(day);
    if (outcome === null) return false;
    this.ended.set(day, outcome);
    this.did.add(outcome);
    return outcome === 'done';
  }

  /** Brings one; null where it did not come to that. */
  private async bring(day: string): Promise<Outcome | null> {
    const { well, sampler, each } = this.lines;
    const line = `${well},${day},${sampler},2030-12-01`;
    const text = ['well,planned for,sampler,asked', ...Array.from({ length: each }, () => line)].join('\n');
    const form = new FormData();
    form.append('file', new Blob([text]), 'plan.csv');
    const read = await this.job(await this.steward.send('POST', `${bring}/files`, form), day);
    if (read?.state !== 'done') return null;
    const { file } = read.result as { file: number };
    const known = await this.steward.get(`${bring}/files/${file}/plan`);
    if (known?.status !== 200) return null;
    const plan = { ...known.body.plan, columns, key: null };
    const looked = await this.job(await this.steward.post(`${bring}/look`, { file, plan }), day);
    if (looked?.state !== 'done') return null;
    const { digest, added } = looked.result.outcome as { digest: string; added: number };
    if (added !== each) throw new Wrong(`of ${each} lines ${added} can be brought`);
    const order = { file, plan, mode: 'all or nothing', digest };
    const begun = await this.steward.post(`${bring}/import`, order);
    if (begun && begun.status !== 202) return 'denied';
    const done = await this.job(begun, day);
    if (done === null) return 'unknown';
    return done.state === 'done' ? 'done' : 'unknown';
  }

  /** A job that was begun, when it is over; meanwhile somebody looks. Null where nobody told its number. */
  private async job(begun: Told, day: string): Promise<{ state: string; result: any } | null> {
    if (begun?.status !== 202) return null;
    const at = `${portal}/jobs/${begun.body.id}`;
    for (;;) {
      await this.look(day);
      const told = await this.steward.get(at);
      if (told?.status === 200 && ['done', 'failed', 'cancelled'].includes(told.body.state)) return told.body;
      await sleep(20);
    }
  }

  private async look(day: string): Promise<void> {
    const filter = encodeURIComponent(`planned_for = '${day}'`);
    const told = await this.looker.get(`${portal}/records/visits?size=1&filter=${filter}`);
    if (told?.status !== 200) return;
    this.did.add('looks');
    const { total } = told.body as { total: number };
    if (total !== 0 && total !== this.lines.each) throw new Wrong(`${total} of ${this.lines.each} lines were there`);
  }

  async judge(): Promise<string[]> {
    const found = await this.found();
    return [...this.ended].flatMap(([day, outcome]) => {
      const there = found.get(day) ?? 0;
      if (outcome === 'done' && there !== this.lines.each) return [`${there} lines of the file of ${day}`];
      return there === 0 || (outcome !== 'denied' && there === this.lines.each)
        ? []
        : [`${there} lines of the file of ${day}, of which it was said: ${outcome}`];
    });
  }

  counts = () => this.did.all;
}
