import { useId, useState } from 'react';
import type { PortalFace } from '../../../core/definition/definition';
import { cornerStyles, densities, themes, typePairs, type Face } from '../../../core/face/face';
import { accentShown, groundShown, topShown } from '../../../core/face/look';
import { useBench } from '../bench/bench-context';
import { StageHead } from '../bench/StageFrame';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Select } from '../../ui/Select';
import { useTypes } from '../../portal/face';
import { ColourField } from './ColourField';
import { EmbeddedIn } from './EmbeddedIn';
import { FooterLinks } from './FooterLinks';
import { OwnAddress } from './OwnAddress';
import { StylesheetField } from './StylesheetField';
import { pickedLogo } from './picked-logo';

const pairWords = {
  stone: 'Bitter over Public Sans',
  plain: 'Figtree',
  book: 'Source Serif over Source Sans',
  round: 'Nunito',
};
const cornerWords = { square: 'square', slight: 'slightly round', round: 'round' };
const densityWords = { tight: 'tight', even: 'even', airy: 'airy' };
const themeWords = { device: 'as the device is set', light: 'always light', dark: 'always dark' };

/** What the portal is called and how it looks, to members and at its door; Seen by shows it. */
export function FaceEditor() {
  const { draft, edit } = useBench();
  const { portal } = draft;
  const { face = {} } = portal;
  const change = (label: string, recipe: (portal: PortalFace) => void) =>
    edit(label, (next) => {
      recipe(next.portal);
      // What looks as it comes is not kept.
      if (next.portal.face && Object.keys(next.portal.face).length === 0) delete next.portal.face;
    });
  const setText = (label: string, key: 'homeName' | 'welcome', text: string) => {
    if (text.trim() !== (face[key] ?? '')) set(label, key, text.trim() || undefined);
  };
  const set = <K extends keyof Face>(label: string, key: K, value: Face[K] | undefined) =>
    void change(label, (next) => {
      next.face ??= {};
      if (value === undefined) delete next.face[key];
      else next.face[key] = value;
    });
  useTypes(face.type);
  return (
    <>
      <StageHead title="The portal's face" />
      <div className="grid max-w-180 gap-6 p-4">
        <div className="grid gap-4 md:grid-cols-2">
          <Field label="Name">
            {(ids) => (
              <input
                className="field"
                maxLength={120}
                {...ids}
                key={portal.name}
                defaultValue={portal.name}
                onBlur={(event) => {
                  const name = event.target.value.trim();
                  if (name && name !== portal.name)
                    void change(`Call the portal ${name}`, (next) => {
                      next.name = name;
                    });
                  else event.target.value = portal.name;
                }}
              />
            )}
          </Field>
          <TimeZone
            zone={portal.timeZone}
            onPick={(zone) =>
              void change(`Reckon days in ${zone}`, (next) => {
                next.timeZone = zone;
              })
            }
          />
        </div>
        <fieldset className="grid gap-4 md:grid-cols-3">
          <legend className="mb-1 text-sm font-semibold">Colours</legend>
          <ColourField
            label="Top"
            value={portal.colour}
            usual="#1f5f85"
            letters="#ffffff"
            shown={topShown}
            onChange={(colour) =>
              void change('Colour the top', (next) => {
                next.colour = colour ?? '#1f5f85';
              })
            }
          />
          <ColourField
            label="What is pressed, and links"
            value={face.accent}
            usual="#4c6b3c"
            letters="#ffffff"
            shown={accentShown}
            onChange={(colour) => set('Colour what is pressed', 'accent', colour)}
          />
          <ColourField
            label="Ground"
            hint="By light; by dark it stays dark"
            value={face.ground}
            usual="#f5f2ec"
            letters="#5a6164"
            shown={groundShown}
            onChange={(colour) => set('Colour the ground', 'ground', colour)}
          />
        </fieldset>
        <OneOf
          title="Type"
          of={typePairs}
          words={pairWords}
          value={face.type ?? 'stone'}
          onPick={(type) => set('Choose the type', 'type', type === 'stone' ? undefined : type)}
        />
        <OneOf
          title="Corners"
          of={cornerStyles}
          words={cornerWords}
          value={face.corners ?? 'slight'}
          onPick={(corners) => set('Choose the corners', 'corners', corners === 'slight' ? undefined : corners)}
        />
        <OneOf
          title="Distances"
          of={densities}
          words={densityWords}
          value={face.density ?? 'even'}
          onPick={(density) => set('Choose the distances', 'density', density === 'even' ? undefined : density)}
        />
        <OneOf
          title="Light or dark"
          of={themes}
          words={themeWords}
          value={face.theme ?? 'device'}
          onPick={(theme) => set('Choose light or dark', 'theme', theme === 'device' ? undefined : theme)}
        />
        <Logo logo={face.logo} onChange={(logo) => set(logo ? 'Set the logo' : 'Take the logo off', 'logo', logo)} />
        <Field label="Said at the sign-in" hint="Empty says nothing">
          {(ids) => (
            <textarea
              className="field"
              rows={2}
              maxLength={600}
              {...ids}
              key={face.welcome ?? ''}
              defaultValue={face.welcome ?? ''}
              onBlur={(event) => setText('Word the sign-in', 'welcome', event.target.value)}
            />
          )}
        </Field>
        <FooterLinks
          links={face.footer ?? []}
          onChange={(label, links) =>
            change(label, (next) => {
              next.face ??= {};
              if (links.length > 0) next.face.footer = links;
              else delete next.face.footer;
            })
          }
        />
        <Field
          label="Called on a home screen"
          hint="Where somebody puts the portal there; its name where this is empty"
        >
          {(ids) => (
            <input
              className="field w-72"
              maxLength={30}
              {...ids}
              key={face.homeName ?? ''}
              defaultValue={face.homeName ?? ''}
              onBlur={(event) => setText('Name it for home screens', 'homeName', event.target.value)}
            />
          )}
        </Field>
        <OwnAddress />
        <EmbeddedIn
          origins={portal.embeddedIn ?? []}
          onChange={(label, origins) =>
            change(label, (next) => {
              if (origins.length > 0) next.embeddedIn = origins;
              else delete next.embeddedIn;
            })
          }
        />
        <StylesheetField
          text={face.stylesheet ?? ''}
          onChange={(text) =>
            change('Set the stylesheet', (next) => {
              next.face ??= {};
              if (text === '') delete next.face.stylesheet;
              else next.face.stylesheet = text;
            })
          }
        />
      </div>
    </>
  );
}

function OneOf<T extends string>({
  title,
  of,
  words,
  value,
  onPick,
}: {
  title: string;
  of: readonly T[];
  words: Record<T, string>;
  value: T;
  onPick: (picked: T) => void;
}) {
  const group = useId();
  return (
    <fieldset>
      <legend className="text-sm font-semibold">{title}</legend>
      <div className="flex flex-wrap gap-x-5">
        {of.map((each) => (
          <label key={each} className="inline-flex min-h-7 items-center gap-2">
            <input type="radio" name={group} checked={each === value} onChange={() => onPick(each)} /> {words[each]}
          </label>
        ))}
      </div>
    </fieldset>
  );
}

function TimeZone({ zone, onPick }: { zone: string; onPick: (zone: string) => void }) {
  const [zones] = useState(() => [...new Set([zone, 'UTC', ...Intl.supportedValuesOf('timeZone')])].toSorted());
  return (
    <Field label="Time zone" hint="In which days begin and end">
      {(ids) => (
        <Select {...ids} value={zone} onPick={onPick}>
          {zones.map((each) => (
            <option key={each} value={each}>
              {each}
            </option>
          ))}
        </Select>
      )}
    </Field>
  );
}

function Logo({ logo, onChange }: { logo: string | undefined; onChange: (logo: string | undefined) => void }) {
  const [fault, setFault] = useState<string | null>(null);
  return (
    <div className="grid gap-2">
      <Field label="Logo" hint="A picture, drawn small; it stands on the top and at the sign-in" fault={fault}>
        {(ids) => (
          <input
            type="file"
            className="field"
            accept="image/*"
            {...ids}
            onChange={(event) => {
              const [file] = event.target.files ?? [];
              event.target.value = '';
              if (!file) return;
              setFault(null);
              pickedLogo(file).then(onChange, (error: Error) => setFault(error.message));
            }}
          />
        )}
      </Field>
      {logo !== undefined && (
        <div className="flex items-center gap-3">
          <img src={logo} alt="The logo as it is" className="max-h-16 max-w-60 rounded-stone border border-line p-1" />
          <Button small onClick={() => onChange(undefined)}>
            Take it off
          </Button>
        </div>
      )}
    </div>
  );
}
