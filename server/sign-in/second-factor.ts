import { randomBytes } from 'node:crypto';
import { Secret, TOTP } from 'otpauth';
import { tokenHash, type Subject } from '../sessions/sessions';
import { seal, unseal } from '../store/secret';
import { SecondFactor } from '../store/people-models';
import { subjectName } from './doorway';

/** Seconds that a code lasts, and how many such steps before and after are taken (RFC 6238, 5.2: one at most). */
const step = 30;
const drift = 1;
/** So many steps off it is told that a clock is wrong. */
const told = 20;
const recoveryCodes = 10;

export type SecondOutcome = 'right' | 'wrong' | 'used' | { minutesOff: number };

/** Codes of the moment (RFC 6238, SHA-1, six digits, thirty seconds: what every app of the kind takes). */
export class SecondFactors {
  constructor(private readonly key: Buffer) {}

  /** A new key for somebody, to be put into their app. Nothing is kept of it yet. */
  propose(portal: string, email: string): { secret: string; uri: string } {
    const secret = new Secret({ size: 20 }).base32;
    return { secret, uri: codesOf(secret, portal, email).toString() };
  }

  /** Keeps a key once a code shows that the app has it; gives the recovery codes, told only now. */
  async enrol(subject: Subject, secret: string, code: string): Promise<SecondOutcome | { recovery: string[] }> {
    const { outcome, at } = tried(secret, code, -1);
    if (outcome !== 'right') return outcome;
    const recovery = Array.from({ length: recoveryCodes }, () =>
      randomBytes(8)
        .toString('hex')
        .slice(0, 12)
        .replace(/(.{4})(?=.)/g, '$1-'),
    );
    await SecondFactor.upsert({
      ...subject,
      sealedSecret: seal(this.key, sealName(subject), secret),
      lastStep: at,
      recovery: JSON.stringify(recovery.map(tokenHash)),
      madeAt: new Date(),
    });
    return { recovery };
  }

  async has(subject: Subject): Promise<boolean> {
    return (await SecondFactor.count({ where: subject })) > 0;
  }

  /** Takes a code of the moment, or one of the recovery codes, each once. */
  async take(subject: Subject, code: string): Promise<SecondOutcome> {
    const factor = await SecondFactor.findOne({ where: subject });
    const secret = factor && unseal(this.key, sealName(subject), factor.sealedSecret);
    if (!factor || secret === null) return 'wrong';
    const typed = code.replaceAll(/\s/g, '').toLowerCase();
    if (!/^\d{6}$/.test(typed)) return this.takeRecovery(factor, typed);
    const { outcome, at } = tried(secret, typed, Number(factor.lastStep));
    if (outcome !== 'right') return outcome;
    const [taken] = await SecondFactor.update(
      { lastStep: at },
      { where: { id: factor.id, lastStep: factor.lastStep } },
    );
    return taken === 1 ? 'right' : 'used';
  }

  private async takeRecovery(factor: SecondFactor, code: string): Promise<SecondOutcome> {
    const left = JSON.parse(factor.recovery) as string[];
    const hash = tokenHash(code);
    if (!left.includes(hash)) return 'wrong';
    const [taken] = await SecondFactor.update(
      { recovery: JSON.stringify(left.filter((each) => each !== hash)) },
      { where: { id: factor.id, recovery: factor.recovery } },
    );
    return taken === 1 ? 'right' : 'used';
  }
}

const sealName = (subject: Subject) => `second factor/${subjectName(subject)}`;

const codesOf = (secret: string, issuer: string, label: string): TOTP =>
  new TOTP({ issuer, label, secret: Secret.fromBase32(secret), algorithm: 'SHA1', digits: 6, period: step });

/** What a code is at this moment; `at` is its step. */
function tried(secret: string, code: string, lastStep: number): { outcome: SecondOutcome; at: number } {
  const timestamp = Date.now();
  const off = codesOf(secret, '', '').validate({ token: code.replaceAll(/\s/g, ''), timestamp, window: told });
  const at = Math.floor(timestamp / 1000 / step) + (off ?? 0);
  if (off === null) return { outcome: 'wrong', at };
  if (Math.abs(off) > drift) return { outcome: { minutesOff: Math.round((off * step) / 6) / 10 }, at };
  return { outcome: at > lastStep ? 'right' : 'used', at };
}
