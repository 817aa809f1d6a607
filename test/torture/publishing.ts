import { Counts, type Caller } from './caller';
import { Wrong, type Stream } from './stream';

const bench = '/builder/portals/alder-fen';

/** A builder changes the portal's name and publishes: each version that was acknowledged is there, and in order. */
export class Publishing implements Stream {
  readonly name = 'versions';
  readonly isSteady = false;
  private number = 0;
  private readonly published = new Map<string, number>();
  private readonly did = new Counts();

  constructor(private readonly builder: Caller) {}

  async turn(): Promise<boolean> {
    const open = await this.builder.get(bench);
    if (open?.status !== 200) return false;
    const name = `Alder Fen ${++this.number}`;
    const patch = [{ op: 'replace', path: '/portal/name', value: name }];
    const changed = await this.builder.send('PATCH', `${bench}/draft`, {
      revision: open.body.revision,
      label: 'Named',
      patch,
    });
    if (changed?.status !== 200) return false;
    const told = await this.builder.post(`${bench}/versions`, {
      revision: changed.body.revision,
      note: name,
      despite: 'torture',
    });
    const outcome = this.did.of(told);
    if (outcome !== 'done') return false;
    const number = told!.body.version as number;
    if (number <= Math.max(0, ...this.published.values())) throw new Wrong(`version ${number} was told twice`);
    this.published.set(name, number);
    return true;
  }

  async judge(): Promise<string[]> {
    const told = await this.builder.get(`${bench}/versions`);
    if (told?.status !== 200) return ['versions are not told'];
    const { versions } = told.body as { versions: { number: number; note: string }[] };
    const wrong = versions.map(({ number }) => number).filter((number, i, all) => all.indexOf(number) !== i);
    return [
      ...wrong.map((number) => `version ${number} is there twice`),
      ...[...this.published].flatMap(([note, number]) =>
        versions.some((each) => each.number === number && each.note === note) ? [] : [`lost: version ${number}`],
      ),
    ];
  }

  counts = () => this.did.all;
}
