import { useState } from 'react';
import { useNavigate } from 'react-router';
import type { PortalDefinition } from '../../../core/definition/definition';
import { movedDefinition } from '../../../core/definition/moved';
import { documentFaults, useMakePortalFrom, type DefinitionTold } from '../../client/definitions';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { DefinitionFaults } from './DefinitionFaults';
import { placesOf, SourceMap } from './SourceMap';

/** A new portal of a definition: under what name, at which address, and where its records are here. */
export function PortalFrom({
  definition,
  told,
  suggested,
}: {
  definition: PortalDefinition;
  told: DefinitionTold;
  suggested: { name: string; slug: string };
}) {
  const navigate = useNavigate();
  const make = useMakePortalFrom();
  const [name, setName] = useState(suggested.name);
  const [slug, setSlug] = useState(suggested.slug);
  const [places, setPlaces] = useState(() => placesOf(told.sources));
  const faults = make.error ? documentFaults(make.error) : [];
  const isPlaced = Object.values(places).every(({ schema }) => schema !== '');
  return (
    <form
      aria-label="A portal from a definition"
      className="grid gap-4"
      onSubmit={(event) => {
        event.preventDefault();
        make.mutate(movedDefinition(definition, { name: name.trim(), slug: slug.trim() }, places), {
          onSuccess: (made) => void navigate(`/build/${made.slug}/data`),
        });
      }}
    >
      <div className="grid gap-4 sm:grid-cols-2">
        <Field label="Name">
          {(ids) => (
            <input
              className="field"
              {...ids}
              required
              maxLength={120}
              value={name}
              onChange={(event) => setName(event.target.value)}
            />
          )}
        </Field>
        <Field label="Address" hint={`Members find it at /p/${slug || 'address'}`}>
          {(ids) => (
            <input
              className="field"
              {...ids}
              required
              maxLength={40}
              value={slug}
              onChange={(event) => setSlug(event.target.value)}
            />
          )}
        </Field>
      </div>
      <SourceMap
        sources={told.sources}
        places={places}
        onPlace={(source, place) => setPlaces({ ...places, [source]: place })}
      />
      <DefinitionFaults faults={faults} says="No portal was made." />
      <p className="text-soft">
        It begins as a draft. Members, keys, passwords and versions are of their own portal and don’t come along.
      </p>
      <div>
        <Button type="submit" weight="main" disabled={make.isPending || !isPlaced}>
          Make this portal
        </Button>
      </div>
    </form>
  );
}
