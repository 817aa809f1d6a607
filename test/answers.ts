import { Ajv2020, type ValidateFunction } from 'ajv/dist/2020.js';
import addFormats from 'ajv-formats';
import { apiOf } from '../server/api';
import { openApiDocument } from '../server/http/open-api';
import type { Services } from '../server/portals/services';

interface Operation {
  responses: Record<string, { $ref?: string; content?: Record<string, { schema: object }> }>;
}

interface Document {
  paths: Record<string, Record<string, Operation>>;
}

/** What the API's own document (OpenAPI 3.1) says of answers, held against them by ajv. */
class Answers {
  private readonly known: { template: RegExp; path: string; methods: Record<string, Operation> }[];
  private readonly checks = new Map<string, ValidateFunction>();
  // Each schema is compiled for some answers only, so quickly made counts for more than quickly run.
  private readonly ajv = new Ajv2020({
    strict: false,
    validateSchema: false,
    inlineRefs: false,
    code: { optimize: false },
  });

  constructor(document: Document) {
    // Formats by their published definitions (RFC 3339 and others), as ajv-formats has them.
    addFormats.default(this.ajv);
    this.ajv.addSchema(document, 'api');
    this.known = Object.entries(document.paths)
      .map(([path, methods]) => ({
        path,
        methods,
        template: new RegExp(`^${path.replaceAll(/\{\w+\}/g, '[^/]+')}$`),
      }))
      // What is said in full comes before what stands for anything.
      .sort((a, b) => Number(a.path.includes('{')) - Number(b.path.includes('{')) || b.path.length - a.path.length);
  }

  /** Throws where an answer isn't one that the document tells of. */
  check(method: string, address: string, status: number, type: string, body: unknown): void {
    const path = `/api${address.split('?')[0]!}`;
    const wrong = (what: string) => {
      throw new Error(`${method} ${path} answered ${status}, but the API's document ${what}.`);
    };
    if (status >= 400) return this.hold('#/components/schemas/Problem', body, wrong);
    const found = this.known.find((each) => each.template.test(path) && each.methods[method.toLowerCase()]);
    const operation = found?.methods[method.toLowerCase()];
    const answer = operation?.responses[status] ?? wrong('knows no such answer');
    const media = type.split(';')[0]!.trim();
    const said = Object.keys(answer!.content ?? {});
    if (said.length === 0) return body === null ? undefined : wrong('says that it is empty');
    const as = said.find(
      (each) => each.split(';')[0] === media || each === 'application/octet-stream' || each.endsWith('/*'),
    );
    if (as === undefined) wrong(`says that it is ${said.join(' or ')}, not ${media}`);
    const place = ['paths', found!.path, method.toLowerCase(), 'responses', String(status), 'content', as!, 'schema'];
    const pointer = place.map((part) => encodeURIComponent(part.replaceAll('~', '~0').replaceAll('/', '~1'))).join('/');
    this.hold(`#/${pointer}`, body, wrong);
  }

  private hold(pointer: string, body: unknown, wrong: (what: string) => void): void {
    let check = this.checks.get(pointer);
    if (!check) {
      check = this.ajv.compile({ $ref: `api${pointer}` });
      this.checks.set(pointer, check);
    }
    if (!check(body))
      wrong(
        `says otherwise: ${this.ajv.errorsText(check.errors, { dataVar: 'the answer' })} in ` +
          JSON.stringify(body).slice(0, 2000),
      );
  }
}

let known: Answers | null = null;

/** The answers that this product's servers tell of; the same for each, so made once. */
export function toldAnswers(): Answers {
  // No service is asked while endpoints are declared.
  known ??= new Answers(openApiDocument(apiOf({ store: {} } as Services)) as unknown as Document);
  return known;
}
