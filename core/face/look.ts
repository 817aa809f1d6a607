import { mixed, readable } from './contrast';
import type { CornerStyle, Density, Face, Theme, TypePair } from './face';

/** A face as the browser needs it: values of custom properties by their names, and what is no colour or size. */
export interface Look {
  style: Record<string, string>;
  theme: Theme;
  type: TypePair;
  footer: { label: string; address: string }[];
}

/** The grounds and inks of the shipped look that a portal's own colours stand on and beside. */
const light = { paper: '#fffefb', ground: '#f5f2ec', sunk: '#ece8df', inks: ['#5a6164', '#8a5a00', '#a03024'] };
const dark = { paper: '#202627', ground: '#181c1d', sunk: '#131718' };

const corners: Record<CornerStyle, string> = { square: '0px', slight: '3px', round: '9px' };
/** Of one step of every distance; the smallest keeps what is pressed at 24 pixels and more (WCAG 2.2, 2.5.8). */
const distances: Record<Density, string> = { tight: '0.235rem', even: '0.25rem', airy: '0.285rem' };
const families: Record<TypePair, [head: string, text: string]> = {
  stone: ["'Bitter Variable', Georgia, serif", "'Public Sans Variable', system-ui, sans-serif"],
  plain: ["'Figtree Variable', system-ui, sans-serif", "'Figtree Variable', system-ui, sans-serif"],
  book: ["'Source Serif 4 Variable', Georgia, serif", "'Source Sans 3 Variable', system-ui, sans-serif"],
  round: ["'Nunito Variable', system-ui, sans-serif", "'Nunito Variable', system-ui, sans-serif"],
};

/** The colour of the top as it is shown: dark enough for white letters. */
export const topShown = (colour: string): string => readable(colour, ['#ffffff'], '#000000');

/** The ground as it is shown: pale enough for everything that is written on it. */
export function groundShown(ground: string): string {
  const isLegible = (tried: string) =>
    light.inks.every((ink) => readable(ink, [tried, sunkOf(tried)], '#000000') === ink);
  for (let share = 0; share < 1; share += 0.05) {
    const tried = mixed(ground, '#ffffff', share);
    if (isLegible(tried)) return tried;
  }
  return '#ffffff';
}

/** The accent as it is shown on what is pressed: dark enough for white letters. */
export const accentShown = (accent: string): string => readable(accent, ['#ffffff'], '#000000');

const sunkOf = (ground: string): string => mixed(ground, '#000000', 0.04);

/** How a portal looks, every colour such that what is written can be read by light and by dark (WCAG 2.2, 1.4.3). */
export function lookOf(portal: { colour: string; face?: Face }): Look {
  const known = looks.get(portal) ?? reckoned(portal);
  looks.set(portal, known);
  return known;
}

/** Everybody is told it with every page, and it changes with the definition alone. */
const looks = new WeakMap<object, Look>();

function reckoned({ colour, face = {} }: { colour: string; face?: Face }): Look {
  const { accent, ground, type = 'stone', corners: corner = 'slight', density = 'even', theme = 'device' } = face;
  const [head, text] = families[type];
  const style: Record<string, string> = {
    '--top': topShown(colour),
    '--corner': corners[corner],
    '--spacing': distances[density],
    '--head-face': head,
    '--text-face': text,
  };
  const shown = ground === undefined ? light.ground : groundShown(ground);
  const sunk = ground === undefined ? light.sunk : sunkOf(shown);
  if (ground !== undefined) {
    style['--ground'] = `light-dark(${shown}, ${dark.ground})`;
    style['--sunk'] = `light-dark(${sunk}, ${dark.sunk})`;
  }
  if (accent !== undefined) {
    const wash = { light: mixed(light.paper, accent, 0.12), dark: mixed(dark.paper, accent, 0.2) };
    const onLight = readable(accent, [light.paper, shown, sunk, wash.light], '#000000');
    const onDark = readable(accent, [dark.paper, dark.ground, dark.sunk, wash.dark], '#ffffff');
    const pressed = accentShown(accent);
    style['--lichen'] = pressed;
    style['--lichen-ink'] = `light-dark(${onLight}, ${onDark})`;
    style['--water'] = `light-dark(${onLight}, ${onDark})`;
    for (const name of ['--lichen-wash', '--water-wash']) style[name] = `light-dark(${wash.light}, ${wash.dark})`;
  }
  return { style, theme, type, footer: face.footer ?? [] };
}
