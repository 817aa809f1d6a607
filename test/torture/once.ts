import { Counts, staysUnknown, type Told } from './caller';
import type { Stream } from './stream';

interface OnceOptions {
  name: string;
  /** Sends the thing with this number. `mark` is what stands in it, and its id where it is asked for again. */
  send: (number: number, mark: string) => Promise<Told>;
  /** Whether what nobody knows of is asked for again under the same id, until somebody knows. */
  again: boolean;
  /** How often each mark stands in the records in the end. */
  found: () => Promise<Map<string, number>>;
  /** There are no more. */
  most?: number;
}

/** Makes one thing after another: what was acknowledged is there once, what was denied isn't, nothing is twice. */
export class Once implements Stream {
  readonly name: string;
  readonly isSteady: boolean;
  private number = 0;
  private again: { number: number; mark: string } | null = null;
  private readonly done = new Set<string>();
  private readonly denied = new Map<string, Told>();
  private readonly did = new Counts();

  constructor(private readonly options: OnceOptions) {
    this.name = options.name;
    this.isSteady = !options.again && options.most === undefined;
  }

  async turn(): Promise<boolean> {
    const { name, send, again, most = Infinity } = this.options;
    if (!this.again && this.number >= most) return false;
    // What is refused now says nothing of the time before.
    const wasAsked = this.again !== null;
    if (wasAsked) this.did.add('asked again');
    const { number, mark } = this.again ?? { number: this.number, mark: `${name}, number ${this.number++}` };
    const told = await send(number, mark);
    const outcome = this.did.of(told);
    const isOpen = outcome === 'unknown' || (wasAsked && told?.status === 503);
    this.again = again && isOpen && !staysUnknown(told) ? { number, mark } : null;
    if (outcome === 'done') this.done.add(mark);
    if (outcome === 'denied' && !wasAsked) this.denied.set(mark, told);
    return outcome === 'done';
  }

  async judge(): Promise<string[]> {
    const found = await this.options.found();
    const wrong: string[] = [];
    for (const [mark, times] of found) if (times > 1) wrong.push(`there ${times} times: ${mark}`);
    for (const mark of this.done) if (!found.has(mark)) wrong.push(`lost: ${mark}`);
    for (const [mark, told] of this.denied)
      if (found.has(mark) && !this.done.has(mark))
        wrong.push(`kept, though it was said not to be: ${mark}, ${JSON.stringify(told)}`);
    return wrong;
  }

  counts = () => this.did.all;
}
