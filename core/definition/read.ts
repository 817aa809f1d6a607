import type { ValidationErrorItem } from 'joi';
import { Problem } from '../refusals/problem';
import { sayFault } from '../refusals/say-fault';
import { definitionFormat, definitionVersion, type PortalDefinition } from './definition';
import { definitionSchemas } from './definition-schema';
import { KnownParts } from './known-parts';
import { tooMuchNested, tooLongCondition } from './limits';
import { withNamedFilters } from './named-filters';
import type { SectionSpecs } from './section';
import { upgraded } from './upgrade/upgrade';

/** A definition that can't be taken: each fault with its place in the document, as a JSON Pointer (RFC 6901). */
export class DefinitionError extends Problem {
  constructor(readonly faults: { place: string; reason: string }[]) {
    super(422, 'definition', faults.map((fault) => `${fault.place || 'the document'}: ${fault.reason}`).join('; '), {
      faults,
    });
  }

  /** The faults stand beside it, each with its place. */
  override get detail(): string {
    return "The definition can't be taken.";
  }
}

/**
 * Reads a definition from parsed JSON, one of an older format as that of today; throws DefinitionError with every
 * fault. Never returns a part of one.
 */
export function readDefinition(given: unknown, specs: SectionSpecs): PortalDefinition {
  const input = upgraded(given);
  const document = input as Partial<PortalDefinition> | null;
  if (typeof document !== 'object' || document === null || document.format !== definitionFormat) {
    throw new DefinitionError([
      { place: '/format', reason: `this is not a portal's definition; its format must be "${definitionFormat}"` },
    ]);
  }
  if (typeof document.formatVersion === 'number' && document.formatVersion > definitionVersion) {
    throw new DefinitionError([
      {
        place: '/formatVersion',
        reason:
          `this definition was written by a newer Stone Porch (format ${String(document.formatVersion)}); this ` +
          `one reads up to ${definitionVersion}. Update first.`,
      },
    ]);
  }
  const tooDeep = tooMuchNested(input);
  if (tooDeep) throw new DefinitionError([tooDeep]);
  const read = soundDocument(document, specs);
  const followed = withNamedFilters(read, specs);
  if (!followed)
    throw new DefinitionError([
      { place: '/tables', reason: 'its named filters are used so often that it gets too large' },
    ]);
  // What a filter brings along counts as if it had been written there.
  const grown = followed === read ? null : (tooMuchNested(followed) ?? tooLongCondition(followed));
  if (grown) throw new DefinitionError([grown]);
  return followed;
}

const known = new WeakMap<SectionSpecs, KnownParts>();

/** The document where it has a definition's form; its parts are looked at that no definition before had. */
function soundDocument(document: object, specs: SectionSpecs): PortalDefinition {
  let parts = known.get(specs);
  if (!parts) known.set(specs, (parts = new KnownParts()));
  const unknown = parts.unknownOf(document);
  const open = Object.fromEntries(unknown.map(({ part, value }) => [part, value]));
  const tooMuch = tooLongCondition(open);
  if (tooMuch) throw new DefinitionError([tooMuch]);
  const schemas = definitionSchemas(specs);
  const lacks = schemas.required.some((part) => (document as Record<string, unknown>)[part] === undefined);
  const found = lacks ? null : schemas.parts.validate(open, options);
  if (!found || found.error) {
    // Faults are told of the whole, as if nothing were known.
    const { error, value } = schemas.whole.validate(document, options);
    if (error) throw new DefinitionError(error.details.map(faultOf));
    return value;
  }
  for (const { part, text } of unknown) if (text !== undefined) parts.remember(part, text);
  return { ...document, ...found.value } as PortalDefinition;
}

const options = { abortEarly: false, convert: false, errors: { wrap: { label: false } } } as const;

const faultOf = (detail: ValidationErrorItem) => ({
  place: detail.path.map((part) => `/${String(part).replaceAll('~', '~0').replaceAll('/', '~1')}`).join(''),
  reason: sayFault(detail),
});

/** The document as text: two spaces, one line feed at the end, so that versions compare well. */
export function writeDefinition(definition: PortalDefinition): string {
  return `${JSON.stringify(definition, null, 2)}\n`;
}
