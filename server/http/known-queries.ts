import type { Request } from 'express';
import type Joi from 'joi';
import { valid } from './problems';

/** So many are kept at most in a process; what was read first goes first. */
const mostKept = 2000;

/** A longer one is read anew each time. */
const longest = 1000;

const kept = new Map<string, unknown>();
let schemas = 0;

/**
 * Reads an address's query by a schema, which must tell the same of the same query at any time. One that was taken is
 * known by what it says: the same pages and programs ask the same again and again. What is given is frozen, since
 * others are given it as well. Throws a Problem that names each place that is wrong.
 */
export function queryReader<T extends object>(schema: Joi.Schema<T>): (req: Request) => T {
  const own = `${++schemas}`;
  return (req) => {
    const asked: unknown = req.query;
    // What was parsed, never the address: whoever found two ways to read one address could have others' read the wrong
    // way.
    const text = JSON.stringify(asked);
    const key = own + text;
    const known = kept.get(key);
    if (known !== undefined) return known as T;
    const read = frozen(valid(schema, asked, 'query'));
    if (text.length > longest) return read;
    kept.set(key, read);
    if (kept.size > mostKept) kept.delete(kept.keys().next().value!);
    return read;
  };
}

function frozen<T>(value: T): T {
  if (typeof value !== 'object' || value === null || Object.isFrozen(value)) return value;
  Object.freeze(value);
  for (const each of Object.values(value)) frozen(each);
  return value;
}
