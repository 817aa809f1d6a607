declare global {
  interface BigInt {
    toJSON(): string;
  }
}

/**
 * JSON has no bigint: whole numbers past 2^53 travel as text. Said here once, since a replacer would slow down every
 * answer.
 */
BigInt.prototype.toJSON = function toJSON(this: bigint): string {
  return String(this);
};

export {};
