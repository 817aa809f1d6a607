import { form, moment, said } from '../http/answers';

/** A line of a log, as it is told. */
export interface LogLine {
  at: string;
  who: string;
  what: string;
  about: string;
}

export const logLine = form<LogLine>({ at: moment, who: said, what: said, about: said });
