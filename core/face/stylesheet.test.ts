import fc from 'fast-check';
import { transform } from 'lightningcss';
import { expect, it } from 'vitest';
import { heldStylesheet, stylesheetProblem } from './stylesheet';

it('holds every rule below the portal', () => {
  const text =
    'h1, .a > b{color:red}:root{--x:1px}/* c */body .c{margin:0}@media (width>3px){a:hover{color:#123 !important}}';
  expect(heldStylesheet(text).split('\n')).toEqual([
    '.portal h1,.portal .a>b{color:red;}',
    '.portal{--x:1px;}',
    '',
    '.portal .c{margin:0;}',
    '@media (width>3px){.portal a:hover{color:#123!important;}}',
  ]);
});

it.each([
  [
    '@import "https://example.org/a.css";',
    'in line 1: @import is not taken, only @media, @supports and @container are',
  ],
  [
    '@font-face{font-family:x;src:url(a)}',
    'in line 1: @font-face is not taken, only @media, @supports and @container are',
  ],
  ['a{\nbackground:url(//example.org/a.png)}', 'in line 2: url() is not taken, since it leads to an address'],
  ['a{background:u\\72l(//example.org/a)}', 'in line 1: a \\ is not taken; write the sign itself'],
  [
    'a{background:image-set("//example.org/a" 1x)}',
    'in line 1: image-set() is not taken, since it leads to an address',
  ],
  ['a{--x:url(//example.org/a)}', 'in line 1: url() is not taken, since it leads to an address'],
  ['a{--x:{url(//example.org/a)}}', "in line 1: {url(//example.org/a)} can't be read"],
  ['a{--x:{b}}', "in line 1: {b} can't be read"],
  ['a{content:"one\nurl(x)"}', 'in line 1: "one\nurl(x)" can\'t be read'],
  ['a{-moz-binding:none}', 'in line 1: -moz-binding is not taken'],
  ['a{&:hover{color:red}}', 'in line 1: a rule within a rule is not taken; write each by itself'],
  ['a{color:red', 'in line 1: this is no CSS that can be read; look for a bracket, a quote or a ; left out'],
  ['a{color:red;\n', 'in line 1: this is no CSS that can be read; look for a bracket, a quote or a ; left out'],
  ['a{color:red}}', 'in line 1: this is no CSS that can be read; look for a bracket, a quote or a ; left out'],
  [':root + div{color:red}', 'in line 1: what stands beside the portal is not its own'],
  ['+ div{color:red}', "in line 1: a selector can't begin with a combinator"],
  ['</style><script>', 'in line 1: this is no CSS that can be read; look for a bracket, a quote or a ; left out'],
  ['a{content:"</style>"}', null],
  [' '.repeat(20_001), 'is longer than 20,000 signs'],
])('takes %s or says why not', (text, problem) => {
  expect(stylesheetProblem(text)).toBe(problem);
});

it('lets through nothing that lightningcss finds outside or leading out', () => {
  const piece = fc.constantFrom(
    ...(
      'a .b :root html { } @media§print @import "x" url( url("//e.org") ) ; : color red & > + ~ , § \n /* */ --v ' +
      'var(--v) \\ :is( :has( ! background: image-set("//e.org"§1x) src("//e.org") <!-- --> @supports§(a:b) [ ]'
    )
      .split(' ')
      .map((text) => text.replaceAll('§', ' ')),
  );
  // Rules that are mostly whole, since few of those that fall together by chance are.
  const mostly = (whole: string[]) =>
    fc.oneof({ weight: 6, arbitrary: fc.constantFrom(...whole) }, { weight: 1, arbitrary: piece });
  const rule = fc
    .tuple(
      fc.array(mostly(['a', '.b', ':root', 'html', ' ', '>', '+', ', ', '[c="d"]', ':is(a)']), {
        minLength: 1,
        maxLength: 4,
      }),
      fc.array(mostly(['color:red;', '--v:1px;', 'margin:0 1px;', 'content:"x";']), { maxLength: 3 }),
    )
    .map(([selector, body]) => `${selector.join('')}{${body.join('')}}`);
  let rules = 0;
  fc.assert(
    fc.property(
      fc.array(fc.oneof({ weight: 3, arbitrary: rule }, { weight: 1, arbitrary: piece }), { maxLength: 4 }),
      (pieces) => {
        const text = pieces.join('');
        if (stylesheetProblem(text) !== null) return;
        const held = heldStylesheet(text);
        transform({
          filename: 'held.css',
          code: Buffer.from(held),
          // Goes on after what it can't read, as browsers do.
          errorRecovery: true,
          visitor: {
            Url: (url) => expect.fail(`an address: ${url.url} in ${held}`),
            Rule: {
              import: () => expect.fail(`an import: ${held}`),
              style: ({ value }) => {
                for (const selector of value.selectors) {
                  expect(selector[0], held).toMatchObject({ type: 'class', name: 'portal' });
                  expect(selector[1], held).not.toMatchObject({ value: 'next-sibling' });
                  expect(selector[1], held).not.toMatchObject({ value: 'later-sibling' });
                }
                expect(value.rules).toEqual([]);
                rules++;
              },
            },
          },
        });
      },
    ),
    { numRuns: 3000 },
  );
  expect(rules).toBeGreaterThan(100);
});
