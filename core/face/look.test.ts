import axe from 'axe-core';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { contrast } from './contrast';
import { cornerStyles, densities, themes, typePairs } from './face';
import { logoProblem } from './logo';
import { lookOf } from './look';

/** Its types leave them out. */
const colours = (
  axe.commons as unknown as {
    color: { Color: new () => { parseHexString(hex: string): void }; getContrast(a: unknown, b: unknown): number };
  }
).color;

/** The contrast of two colours as axe-core 4.11 reckons it. */
function byAxe(one: string, other: string): number {
  const [a, b] = [one, other].map((hex) => {
    const made = new colours.Color();
    made.parseHexString(hex);
    return made;
  });
  return colours.getContrast(a, b);
}

const colour = fc.integer({ min: 0, max: 0xffffff }).map((value) => `#${value.toString(16).padStart(6, '0')}`);

it('reckons contrast as axe-core does', () => {
  fc.assert(
    fc.property(colour, colour, (one, other) => {
      // Ours is rounded down to two places.
      expect(contrast(one, other)).toBeGreaterThan(byAxe(one, other) - 0.0101);
      expect(contrast(one, other)).toBeLessThanOrEqual(byAxe(one, other) + 1e-9);
    }),
    { numRuns: 2000 },
  );
});

it('makes every text readable by light and by dark, whatever colours are chosen', () => {
  const either = (value: string | undefined, otherwise: [string, string]): [string, string] =>
    (/light-dark\((#\w{6}), (#\w{6})\)/.exec(value ?? '')?.slice(1) as [string, string] | undefined) ?? otherwise;
  fc.assert(
    fc.property(
      colour,
      fc.record(
        {
          accent: colour,
          ground: colour,
          type: fc.constantFrom(...typePairs),
          corners: fc.constantFrom(...cornerStyles),
          density: fc.constantFrom(...densities),
          theme: fc.constantFrom(...themes),
        },
        { requiredKeys: [] },
      ),
      (top, face) => {
        const { style } = lookOf({ colour: top, face });
        // Of what is not chosen, as web/ui/look.css has it.
        const ground = either(style['--ground'], ['#f5f2ec', '#181c1d']);
        const sunk = either(style['--sunk'], ['#ece8df', '#131718']);
        const ink = either(style['--water'], ['#1f5f85', '#8cc1e0']);
        const wash = either(style['--water-wash'], ['#e8f0f6', '#1c2f3a']);
        const paper = ['#fffefb', '#202627'] as const;
        const soft = ['#5a6164', '#a9b0b0'] as const;
        const ochre = ['#8a5a00', '#e5b35c'] as const;
        const iron = ['#a03024', '#f09a8c'] as const;
        const pairs: [string, string][] = [
          ['#ffffff', style['--top']!],
          ['#ffffff', style['--lichen'] ?? '#4c6b3c'],
          ...[0, 1].flatMap((i): [string, string][] => [
            ...[ground, sunk].flatMap((on): [string, string][] =>
              [soft, ochre, iron].map((text) => [text[i]!, on[i]!] as [string, string]),
            ),
            ...[ground, sunk, wash, paper].map((on) => [ink[i]!, on[i]!] as [string, string]),
          ]),
        ];
        expect(pairs.filter(([text, on]) => byAxe(text, on) < 4.5)).toEqual([]);
      },
    ),
    { numRuns: 300 },
  );
});

it('takes a small PNG picture for a logo, by what it holds and not by what it is called', () => {
  // A PNG signature and header, as the format's third edition writes them, of so many pixels.
  const png = (width: number, height: number) => {
    const bytes = Buffer.alloc(60);
    Buffer.from('89504e470d0a1a0a0000000d49484452', 'hex').copy(bytes);
    bytes.writeUInt32BE(width, 16);
    bytes.writeUInt32BE(height, 20);
    return `data:image/png;base64,${bytes.toString('base64')}`;
  };
  expect(logoProblem(png(200, 60))).toBeNull();
  expect(logoProblem(png(10_000, 6000))).toBe('is 10000 by 6000 pixels; up to 1000 by 1000 are taken');
  expect(logoProblem(png(0, 60))).not.toBeNull();
  const zip = `data:image/png;base64,${Buffer.from('PK\x03\x04 and so on and on and on').toString('base64')}`;
  expect(logoProblem(zip)).toBe('is no PNG picture');
  const drawing = Buffer.from('<svg xmlns="http://www.w3.org/2000/svg"/>');
  const svg = `data:image/svg+xml;base64,${drawing.toString('base64')}`;
  expect(logoProblem(svg)).toBe('is no PNG picture');
  expect(logoProblem(`data:image/png;base64,${'A'.repeat(50_000)}`)).toBe('is larger than 30 kB');
});
