import type { ConditionContext } from '../condition/operand-value';
import type { PortalDefinition } from '../definition/definition';
import type { Row, Value } from '../table/value';

/** Who asks. `builder` is the portal's developer in the workplace, with a grant of their own to see every table. */
export interface Person {
  kind: 'member' | 'visitor' | 'service' | 'builder';
  id: number | null;
  email: string | null;
  organisation: string | null;
  roles: string[];
  /** The person's roster row by table; a table whose roster they are not on is absent. */
  rows: Record<string, Row>;
  /** What relations lead to from those rows, as far as rules ask it: by the fact's parts as JSON. */
  along?: Record<string, Value>;
  /**
   * Whoever looks, as this person, is kept from personal data: columns with a data class show them stand-ins, and
   * nothing else is different.
   */
  withoutSight?: true;
}

export const builderPerson: Person = {
  kind: 'builder',
  id: null,
  email: null,
  organisation: null,
  roles: [],
  rows: {},
};

/** Somebody of a role of whom nothing else is known. */
export const oneOf = (role: string): Person => ({
  kind: 'member',
  id: null,
  email: null,
  organisation: null,
  roles: [role],
  rows: {},
});

/** Whoever has not signed in: every role that is for visitors, and no facts. */
export function visitorPerson(definition: PortalDefinition): Person {
  return {
    kind: 'visitor',
    id: null,
    email: null,
    organisation: null,
    roles: rolesFor(definition, 'visitors'),
    rows: {},
  };
}

/** A program with a key: those of its roles that are for services, and no facts. */
export function servicePerson(definition: PortalDefinition, roles: string[]): Person {
  const open = rolesFor(definition, 'services');
  return {
    kind: 'service',
    id: null,
    email: null,
    organisation: null,
    roles: roles.filter((role) => open.includes(role)),
    rows: {},
  };
}

function rolesFor(definition: PortalDefinition, whom: 'visitors' | 'services'): string[] {
  return definition.roles.filter((role) => role.for === whom).map((role) => role.id);
}

/** The facts that conditions may ask of the person, and the clock as the portal reads it. */
export function contextOf(person: Person, moment: Date, timeZone: string, record?: Row): ConditionContext {
  const facts: Record<string, Value> = { id: person.id, email: person.email, organisation: person.organisation };
  for (const table in person.rows) {
    const row = person.rows[table]!;
    for (const column in row) facts[`${table}.${column}`] = row[column]!;
  }
  let today: string | null = null;
  return {
    facts,
    along: person.along,
    record,
    // Reckoned when a condition asks for them: a calendar is slow, and most conditions don't.
    get today() {
      today ??= dayIn(moment, timeZone);
      return today;
    },
    get now() {
      return moment.toISOString().slice(0, 19).replace('T', ' ');
    },
  };
}

const formats = new Map<string, Intl.DateTimeFormat>();

/** By the zone, the day that a second was last found to be in: zones go by whole seconds. */
const lastDays = new Map<string, { second: number; day: string }>();

/** The day of a moment in a zone, as `2026-11-24`. */
export function dayIn(moment: Date, timeZone: string): string {
  const second = Math.floor(moment.getTime() / 1000);
  const last = lastDays.get(timeZone);
  if (last?.second === second) return last.day;
  const day = reckonedDay(moment, timeZone);
  lastDays.set(timeZone, { second, day });
  return day;
}

function reckonedDay(moment: Date, timeZone: string): string {
  let format = formats.get(timeZone);
  if (!format) {
    format = new Intl.DateTimeFormat('en-CA', { timeZone, year: 'numeric', month: '2-digit', day: '2-digit' });
    formats.set(timeZone, format);
  }
  const parts = Object.fromEntries(format.formatToParts(moment).map((part) => [part.type, part.value]));
  return `${parts.year}-${parts.month}-${parts.day}`;
}

const clocks = new Map<string, Intl.DateTimeFormat>();

/** The time of day of a moment in a zone, as `06:30`. */
export function timeIn(moment: Date, timeZone: string): string {
  let clock = clocks.get(timeZone);
  if (!clock) {
    clock = new Intl.DateTimeFormat('en-GB', { timeZone, hour: '2-digit', minute: '2-digit', hourCycle: 'h23' });
    clocks.set(timeZone, clock);
  }
  return clock.format(moment);
}
