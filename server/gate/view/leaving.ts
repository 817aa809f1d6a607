import type { Action, CallStep, MailStep } from '../../../core/definition/action';
import type { Value } from '../../../core/table/value';

/** A mail that is to leave once everything is kept: to an address, or to all of a role. */
export interface LeavingMail {
  step: MailStep;
  to: { address: string } | { role: string } | 'presser';
  /** What stands in its words, by the names there. */
  values: Record<string, string>;
}

/** A call that is to leave once everything is kept, with what it tells by the names that it has there. */
export interface LeavingCall {
  step: CallStep;
  values: Record<string, Value>;
}

/** Of what something is that leaves: the action, and the record that it was done with. */
interface OfAction {
  action: Action;
  table: string;
  id: string;
  /** Nobody pressed for it: the role of services by which it was done. */
  by: string | null;
}

/** What is to leave once everything is kept. */
export interface Leaving {
  mails: (LeavingMail & OfAction)[];
  calls: (LeavingCall & OfAction)[];
}
