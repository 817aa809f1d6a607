import type { SourcePlace } from '../../../core/definition/moved';
import { useConnections, useSourceSchemas } from '../../client/builder';
import type { DefinitionTold } from '../../client/definitions';
import { Field } from '../../ui/Field';
import { Select } from '../../ui/Select';

export type Places = Readonly<Record<string, SourcePlace>>;

type Told = DefinitionTold['sources'][number];

/** Where each source of a definition is here: by its short name, empty for the portal's own. */
export function SourceMap({
  sources,
  places,
  onPlace,
}: {
  sources: readonly Told[];
  places: Places;
  onPlace: (name: string, place: SourcePlace) => void;
}) {
  return sources.map((source) => {
    const name = source.name ?? '';
    return <SourceLine key={name} source={source} place={places[name]!} onPlace={(place) => onPlace(name, place)} />;
  });
}

function SourceLine({
  source,
  place,
  onPlace,
}: {
  source: Told;
  place: SourcePlace;
  onPlace: (place: SourcePlace) => void;
}) {
  const connections = useConnections();
  const schemas = useSourceSchemas(place.connection);
  const kindOf = (connection: string) =>
    connections.data?.connections.find(({ name }) => name === connection)?.kind ?? 'mariadb';
  const of = source.name === null ? 'Its own records' : `Its source “${source.name}”`;
  const known = schemas.data?.schemas ?? [];
  const isThere = known.includes(place.schema);
  return (
    <fieldset className="grid gap-3 sm:grid-cols-2">
      <legend className="mb-1 font-semibold">
        {of}{' '}
        <span className="font-normal text-soft">
          were in {source.schema}
          {source.connection === null ? '' : ` of ${source.connection}`}
        </span>
      </legend>
      <Field label="Here they are in">
        {(ids) => (
          <Select
            {...ids}
            value={place.connection}
            onPick={(connection) => onPlace({ kind: kindOf(connection), connection, schema: '' })}
          >
            <option value="">Stone Porch's own database</option>
            {connections.data?.connections.map(({ name }) => (
              <option key={name} value={name}>
                {name}
              </option>
            ))}
          </Select>
        )}
      </Field>
      <Field
        label="Schema"
        fault={schemas.data && place.schema !== '' && !isThere ? `There is no schema ${place.schema} here.` : null}
      >
        {(ids) => (
          <Select {...ids} value={isThere ? place.schema : ''} onPick={(schema) => onPlace({ ...place, schema })}>
            <option value="">choose</option>
            {known.map((each) => (
              <option key={each} value={each}>
                {each}
              </option>
            ))}
          </Select>
        )}
      </Field>
    </fieldset>
  );
}

/** The places that a definition names. */
export const placesOf = (sources: readonly Told[]): Places =>
  Object.fromEntries(
    sources.map(({ name, kind, connection, schema }) => [name ?? '', { kind, connection: connection ?? '', schema }]),
  );
