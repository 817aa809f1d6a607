import { readFileSync } from 'node:fs';
import { expect, it } from 'vitest';
import { readSettings, settings } from './settings';

it('reads settings, and names every one that is wrong or is none', () => {
  expect(readSettings({ PATH: '/bin' })).toEqual({
    address: undefined,
    trustProxy: false,
    privateDatabases: undefined,
    metrics: undefined,
    log: 'info',
  });
  const wrong = {
    STONE_PORCH_DATABASE: 'mysql://somewhere',
    STONE_PORCH_KEY: 'short',
    STONE_PORCH_ADDRESS: 'portal.example.org',
    STONE_PORCH_TRUST_PROXY: 'yes',
    STONE_PORCH_PRIVATE_DATABASES: '',
    STONE_PORCH_METRICS: 'too short',
    STONE_PORCH_LOG: 'loud',
  };
  // Every setting has a value that it does not take.
  expect(Object.keys(wrong).sort()).toEqual(settings.map(({ name }) => name).sort());
  const said = (env: NodeJS.ProcessEnv): string => {
    try {
      readSettings(env);
    } catch (error) {
      return (error as Error).message;
    }
    return '';
  };
  const words = said({ ...wrong, STONE_PORCH_LGO: 'info' });
  for (const name of [...Object.keys(wrong), 'STONE_PORCH_LGO']) expect(words).toContain(name);
  expect(words).not.toContain('short\n');
  for (const [name, value] of Object.entries(wrong)) expect(said({ [name]: value })).toContain(name);
});

it('the table of settings in docs/running.md is this one', () => {
  const text = readFileSync(new URL('../docs/running.md', import.meta.url), 'utf8');
  for (const { name, says, unset } of settings) expect(text).toContain(`| \`${name}\` | ${says} | ${unset} |`);
});
