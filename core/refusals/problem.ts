/**
 * An error that says itself to people: its message is the sentence, `type` names it for programs (RFC 9457), `status`
 * is the one of HTTP (RFC 9110) that says whose fault it is. Whoever throws one decides all of it; whoever sends it
 * only has to know this class.
 */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly type: string,
    detail: string,
    /** What programs get beside the sentence. */
    readonly extra: Record<string, unknown> = {},
    readonly headers: Record<string, string> = {},
    options?: ErrorOptions,
  ) {
    super(detail, options);
  }

  /** What people are told; the message, where that says no more. */
  get detail(): string {
    return this.message;
  }
}
