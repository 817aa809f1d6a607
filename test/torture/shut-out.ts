import { Counts, type Caller } from './caller';
import { Changing } from './changing';
import { Wrong, type Stream } from './stream';

/** Somebody is shut out and let in again; whoever is out is told nothing from then on, at whichever door. */
export class ShutOut {
  private readonly isOut = new Changing(false);
  private readonly did = new Counts();
  private readonly seen = new Counts();

  constructor(
    private readonly builder: Caller,
    private readonly member: Caller,
    private readonly memberId: number,
    private readonly signIn: { email: string; password: string },
  ) {}

  readonly streams: Stream[] = [
    {
      name: 'shutting out',
      isSteady: false,
      turn: async () => {
        const at = `/builder/portals/alder-fen/members/${this.memberId}/suspension`;
        const out = !this.isOut.last;
        const outcome = await this.isOut.to(out, async () =>
          this.did.of(
            out ? await this.builder.send('PUT', at, { reason: 'Asked us to' }) : await this.builder.send('DELETE', at),
          ),
        );
        return outcome === 'done';
      },
      judge: () => Promise.resolve([]),
      counts: () => this.did.all,
    },
    {
      name: 'who is shut out',
      isSteady: false,
      turn: async () => {
        const asked = performance.now();
        const told = await this.member.get('/portals/alder-fen/me');
        const possible = this.isOut.possible(asked, performance.now());
        if (told?.status === 200 && !possible.includes(false)) throw new Wrong('was told something');
        if (told?.status === 200) this.seen.add('in');
        else if (told?.status === 401) await this.comeIn();
        else this.seen.add('not answered');
        return told?.status === 200 || told?.status === 401;
      },
      judge: () => Promise.resolve([]),
      counts: () => this.seen.all,
    },
  ];

  /** Only whoever is let in again tries: one who is refused too often would have to wait. */
  private async comeIn(): Promise<void> {
    this.seen.add('out');
    if (this.isOut.last) return;
    const asked = performance.now();
    const told = await this.member.post('/portals/alder-fen/sign-in', this.signIn);
    if (told?.status === 401 && !this.isOut.possible(asked, performance.now()).includes(true))
      throw new Wrong('was not let in');
  }
}
