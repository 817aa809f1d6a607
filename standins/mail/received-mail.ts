import type { ParsedMail } from 'mailparser';

/** A mail as it came over the wire, and as a reader of mail understands it. */
export interface ReceivedMail {
  number: number;
  to: string[];
  at: Date;
  raw: string;
  parsed: ParsedMail;
}
