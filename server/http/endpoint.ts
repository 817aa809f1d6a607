import type { Request, Response } from 'express';
import Joi from 'joi';
import { Problem } from '../../core/refusals/problem';
import { wasStopped } from '../sources/connection-problem';
import { queryReader } from './known-queries';
import { valid } from './problems';

type Method = 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE';

/** Who an endpoint is for: throws where somebody may not come in, and gives what they find opened behind the door. */
export interface Entry<Given extends object> {
  /** The sign-in that it asks for, as the API's document names it. */
  readonly needs: 'member' | 'builder' | 'key' | null;
  open(req: Request, res: Response, asked: AskedOfEntry): Promise<Given>;
  /**
   * What `open` would give if nothing had changed since it last did, for an endpoint whose own reading bears that out;
   * null where it doesn't know. Does nothing that may not be done twice.
   */
  assume?(req: Request, res: Response): Promise<AssumedAtEntry<Given> | null>;
}

interface AssumedAtEntry<Given> {
  given: Given;
  /** Whether it was borne out by now. */
  holds(): boolean;
}

/** What an entry is told of the endpoint behind it. */
interface AskedOfEntry {
  /** It changes nothing: for whoever may only look. */
  reads: boolean;
  /** It tells or takes personal data as it is: not for whoever is kept from that. */
  personal: boolean;
}

/** For everyone, signed in or not. */
export const anybody: Entry<object> = { needs: null, open: () => Promise.resolve({}) };

/** An entry that goes on from another: it opens more, or refuses some of those who came in. */
export function behind<Given extends object, More extends object>(
  entry: Entry<Given>,
  open: (given: Given, req: Request, res: Response) => Promise<More>,
): Entry<More> {
  return {
    needs: entry.needs,
    open: async (req, res, asked) => open(await entry.open(req, res, asked), req, res),
  };
}

/** An answer that is a file: written to the response by the endpoint itself, as one of these media types. */
export class FileAnswer {
  readonly types: readonly string[];
  constructor(...types: string[]) {
    this.types = types;
  }
}

/** An answer in JSON that can be had as text of these media types as well, which the endpoint writes itself. */
export class AlsoAs<T> {
  readonly types: readonly string[];
  constructor(
    readonly json: Joi.AnySchema<T>,
    ...types: string[]
  ) {
    this.types = types;
  }
}

/** What an endpoint gives that has written its answer already. */
export const written = undefined as never;

/** A body that is a form with one file in it (RFC 7578), read by the endpoint itself. */
export const oneFile = 'one file';

type Answer = Joi.Schema | FileAnswer | AlsoAs<any> | null;

type Answers = { readonly [status: number]: Answer };

/** A browser never shows its page a 304. */
type AnswerTo<A extends Answers> = {
  [S in Exclude<keyof A, 304>]: A[S] extends Joi.AnySchema<infer T> | AlsoAs<infer T> ? T : void;
}[Exclude<keyof A, 304>];

/** What is answered with another status than the first that is declared. */
class Reply<T> {
  constructor(
    readonly status: number,
    readonly value: T,
  ) {}
}

export const reply = <T>(status: number, value: T): Reply<T> => new Reply(status, value);

/** The answer to whoever has it already (RFC 9110, 15.4.5). */
export const unchanged = reply(304, undefined as never);

type NameIn<Path extends string> = Path extends `${string}:${infer Name}/${infer Rest}`
  ? Name | NameIn<`/${Rest}`>
  : Path extends `${string}:${infer Name}`
    ? Name
    : never;

type BodySchema = Joi.Schema | typeof oneFile | undefined;

/** What an endpoint reads of a body. */
type Read<B extends BodySchema> = B extends Joi.AnySchema<infer T> ? T : undefined;

/** What is sent as the body; of a form the compiler knows only that it is one. */
type Sent<B extends BodySchema> = B extends typeof oneFile ? FormData : Read<B>;

type ParameterSchemas = { readonly [name: string]: Joi.Schema };

type Parameters<Path extends string, P> = {
  [Name in NameIn<Path>]: Name extends keyof P ? (P[Name] extends Joi.AnySchema<infer T> ? T : string) : string;
};

/** What the client has to know of an endpoint. */
export interface Told {
  method: Method;
  path: string;
  params: object;
  query: object;
  body: unknown;
  answer: unknown;
}

/** An endpoint as it stands in a router and in the API's document; `T` is for the compiler alone. */
export interface Endpoint<T extends Told = Told> {
  readonly method: T['method'];
  readonly path: T['path'];
  readonly says: string;
  readonly needs: Entry<object>['needs'];
  /** It changes nothing. */
  readonly reads: boolean;
  readonly params: ParameterSchemas;
  readonly query: Joi.ObjectSchema | null;
  readonly body: Joi.Schema | typeof oneFile | null;
  readonly answers: Answers;
  handle(req: Request, res: Response): Promise<void>;
  readonly told?: T;
}

/**
 * Declares an endpoint: its method and path, what it takes, what it answers and what it does. What is taken is read by
 * its schemas before `does` is called, who comes in before that. `does` gives the answer of the first status declared,
 * a `reply` for another one, and nothing where it has written a file to the response. A parameter of the path that
 * its schema doesn't take is an address at which there is nothing.
 */
export function endpoint<
  M extends Method,
  Path extends string,
  Given extends object,
  A extends Answers,
  P extends ParameterSchemas = Record<never, never>,
  Query extends object = Record<never, never>,
  B extends BodySchema = undefined,
>(declared: {
  method: M;
  path: Path;
  /** What it does, in a sentence for whoever reads the API's document. */
  says: string;
  entry: Entry<Given>;
  /** Whether it changes nothing; a GET never does. */
  reads?: true;
  /** Whether it tells or takes personal data as it is: for builders who see that. */
  personal?: true;
  /** Whether it reads by what is assumed of whoever asks, and tells nothing before that was borne out. */
  assumes?: true;
  params?: P;
  query?: Joi.ObjectSchema<Query>;
  body?: B;
  answers: A;
  does(
    asked: Given & { params: Parameters<Path, P>; query: Query; body: Read<B>; req: Request; res: Response },
  ): Promise<AnswerTo<A> | Reply<AnswerTo<A>>>;
}): Endpoint<{
  method: M;
  path: Path;
  params: Parameters<Path, P>;
  query: Query;
  body: Sent<B>;
  answer: AnswerTo<A>;
}> {
  const { params = {}, query = null, body = null, answers, entry } = declared;
  const first = Number(Object.keys(answers)[0]);
  const reads = declared.reads === true || declared.method === 'GET';
  const readQuery = query && queryReader(query);
  type Said = Awaited<ReturnType<typeof declared.does>>;
  const does = (given: Given, read: Record<string, unknown>, req: Request, res: Response) =>
    declared.does({
      ...given,
      params: read as Parameters<Path, P>,
      query: readQuery ? readQuery(req) : ({} as Query),
      body: (body && body !== oneFile ? valid(body, req.body) : undefined) as Read<B>,
      req,
      res,
    });
  /** What is said by what was assumed; null where that wasn't borne out, whatever came of it. */
  const saidByAssumed = async (
    read: Record<string, unknown>,
    req: Request,
    res: Response,
    asked: AskedOfEntry,
  ): Promise<{ said: Said } | null> => {
    const assumed = await entry.assume!(req, res).catch((error: unknown) => {
      // Whoever asks too often is not heard a second time.
      if (error instanceof Problem && error.status === 429) throw error;
      return null;
    });
    if (!assumed) return null;
    try {
      const said = await does(assumed.given, read, req, res);
      return assumed.holds() ? { said } : null;
    } catch (error) {
      if (assumed.holds()) throw error;
      if (!wasStopped(error)) return null;
      // What took too long is not asked twice; that it did is told only to whoever may come in.
      await entry.open(req, res, asked);
      throw error;
    }
  };
  return {
    method: declared.method,
    path: declared.path,
    says: declared.says,
    needs: entry.needs,
    reads,
    params,
    query,
    body,
    answers,
    handle: async (req, res) => {
      const read = parameters(params, req.params);
      const asked = { reads, personal: declared.personal === true };
      const assumed = declared.assumes && entry.assume ? await saidByAssumed(read, req, res, asked) : null;
      const said = assumed ? assumed.said : await does(await entry.open(req, res, asked), read, req, res);
      const [status, value] = said instanceof Reply ? [said.status, said.value] : [first, said];
      const answer = answers[status];
      if (answer instanceof FileAnswer || (answer instanceof AlsoAs && value === written)) return;
      res.status(status);
      if (answer === null) res.end();
      else res.json(value);
    },
  };
}

function parameters(schemas: ParameterSchemas, given: Request['params']): Readonly<Record<string, unknown>> {
  const asked = Object.entries(schemas);
  if (asked.length === 0) return given;
  const read: Record<string, unknown> = { ...given };
  for (const [name, schema] of asked) {
    const { error, value } = schema.validate(given[name], { convert: true });
    if (error) throw new Problem(404, 'not-found', 'There is nothing at this address.');
    read[name] = value as unknown;
  }
  return read;
}

/** A number that the product gives to what it keeps. */
export const ownNumber = Joi.number().integer().min(1).max(Number.MAX_SAFE_INTEGER);

/** Endpoints of a subject, by the names that the API's document gives them. */
export type Endpoints = Readonly<Record<string, Endpoint>>;

/** The endpoints of a subject by method and path, for the client's types. */
export type ApiOf<E> = {
  [K in keyof E as E[K] extends Endpoint<infer T> ? `${T['method']} ${T['path']}` : never]: E[K] extends Endpoint<
    infer T
  >
    ? T
    : never;
};
