import { expect, it } from 'vitest';
import { isFramed } from '../../sections/outside/framed-address';
import { isOutside } from './outside-address';

it('takes an address that leads outside, and none that would run or stay here', () => {
  const outside = [
    'https://www.example.org/',
    'http://example.org/a?b=c#d',
    'mailto:a@example.org',
    'tel:+441234567890',
  ];
  expect(outside.filter((address) => !isOutside(address))).toEqual([]);
  // The last three a browser takes as addresses on the page's own site (WHATWG URL, scheme state, special schemes).
  const not = [
    '',
    'javascript:alert(1)',
    'JaVaScRiPt:alert(1)',
    ' javascript:alert(1)',
    'java\tscript:alert(1)',
    'data:text/html,x',
    'blob:https://example.org/1',
    'file:///etc/passwd',
    '//example.org',
    'https://a b',
    'https:\\\\example.org',
    '/x',
    'https:x',
    'http:/x',
  ];
  expect(not.filter(isOutside)).toEqual([]);
  const base = 'https://portal.example/p/fen/page';
  expect(new URL('https:x', base).host).toBe('portal.example');
  expect([...not, 'http://example.org', 'mailto:a@example.org', 'https://me:it@example.org/'].filter(isFramed)).toEqual(
    [],
  );
  expect(isFramed('https://example.org/map')).toBe(true);
});
