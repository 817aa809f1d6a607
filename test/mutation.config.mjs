import { fileURLToPath } from 'node:url';

const tools = new URL('../dist/mutation-tools/node_modules/@stryker-mutator/', import.meta.url);

export default {
  testRunner: 'vitest',
  plugins: [fileURLToPath(new URL('vitest-runner/dist/src/index.js', tools))],
  // Without `related: false` test files are silently left out.
  vitest: { related: false, configFile: 'test/mutation.vitest.ts' },
  coverageAnalysis: 'perTest',
  concurrency: 2,
  reporters: ['clear-text', 'json'],
  clearTextReporter: { allowColor: false, logTests: false, reportTests: false },
  jsonReporter: { fileName: 'dist/mutation.json' },
  tempDirName: 'dist/mutation',
  ignorePatterns: ['dist', 'docs', 'test-results', 'data'],
  ignoreStatic: true,
  timeoutMS: 20_000,
};
