import { Counts, outcomeOf, type Caller, type Told } from './caller';
import { Wrong, type Stream } from './stream';

const visits = '/portals/alder-fen/records/visits';

/** Writes one note after another at a record, or at two that are kept together: what was acknowledged stays. */
export class Notes implements Stream {
  readonly name: string;
  readonly isSteady = true;
  private number = 0;
  private acknowledged: string | null = null;
  /** Sent since of which nobody said whether they were kept. */
  private open: string[] = [];
  private readonly denied = new Set<string>();
  private readonly did = new Counts();
  private isSure = false;

  constructor(
    private readonly caller: Caller,
    private readonly ids: readonly number[],
  ) {
    this.name = `note of ${ids.join(' and ')}`;
  }

  async turn(): Promise<boolean> {
    if (!this.isSure) return this.look();
    const text = `${this.name}, ${++this.number}`;
    this.open.push(text);
    const outcome = this.did.of(await this.write(text));
    if (outcome === 'done') {
      this.acknowledged = text;
      this.open = [];
      return true;
    }
    if (outcome === 'denied') {
      this.denied.add(text);
      this.open.pop();
    }
    this.isSure = false;
    return false;
  }

  /** What stands there now. */
  private async look(): Promise<boolean> {
    const told = await Promise.all(this.ids.map((id) => this.caller.get(`${visits}/${id}?columns=access_note`)));
    if (told.some((each) => each?.status !== 200)) return false;
    const notes = told.map((each) => each!.body.record.values.access_note as string | null);
    if (this.number === 0 && notes.some((note) => note !== notes[0])) {
      await this.begin(notes);
      return false;
    }
    // They are read one after the other: between the two what was under way may have been kept.
    if (this.ids.length > 1 && notes[0] !== notes[1] && this.open.length > 0) return false;
    this.found(notes);
    this.isSure = true;
    return true;
  }

  /** Before the first: where several notes differ, each is made the same. */
  private async begin(notes: readonly (string | null)[]): Promise<boolean> {
    const to = `${this.name}, 0`;
    const told = await Promise.all(
      this.ids.map((id, i) =>
        this.caller.send('PATCH', `${visits}/${id}`, { changes: { access_note: { from: notes[i], to } } }),
      ),
    );
    return told.every((each) => outcomeOf(each) === 'done');
  }

  private found(notes: readonly (string | null)[]): void {
    const [note] = notes;
    if (notes.some((each) => each !== note)) throw new Wrong(`half was kept: ${notes.join(' | ')}`);
    const isFirst = this.number === 0;
    if (!isFirst && note !== this.acknowledged && !this.open.includes(note!))
      throw new Wrong(
        this.denied.has(note!)
          ? `kept, though it was said not to be: ${note}`
          : `lost: ${this.acknowledged}, is ${note}`,
      );
    // What was under way may still come where the old text stands; the next that is acknowledged ends that.
    if (note !== this.acknowledged) this.open = [];
    this.acknowledged = note!;
  }

  private write(text: string): Promise<Told> {
    const changes = { access_note: { from: this.acknowledged, to: text } };
    if (this.ids.length === 1) return this.caller.send('PATCH', `${visits}/${this.ids[0]}`, { changes });
    const writes = this.ids.map((id) => ({ edit: String(id), changes }));
    return this.caller.post(`${visits}/several`, { mode: 'all or nothing', writes });
  }

  async judge(): Promise<string[]> {
    try {
      while (!(await this.look()));
      return [];
    } catch (error) {
      return [(error as Error).message];
    }
  }

  counts = () => this.did.all;
}
