// What the runners' reports say: sums, and what failed, in a few lines each.
import { readFileSync } from 'node:fs';
import { relative } from 'node:path';
import { stripVTControlCharacters } from 'node:util';
import { root } from './install.mjs';

/** Of what failed, so much is told again at the end. */
const mostLines = 12;
const mostOfLine = 300;

/**
 * @typedef {{ passed: number, failed: number, told: string[] }} Report `told` says of each that failed what and why.
 */

/**
 * The sums of Vitest's JSON report.
 *
 * @param {string} path
 * @returns {Report} a file that could not be loaded counts as one that failed, since none of its tests did
 * @throws {Error} where there is no report or it ran nothing
 */
export function vitestReport(path) {
  const report = JSON.parse(readFileSync(path, 'utf8'));
  const told = report.testResults.flatMap((file) => {
    const failed = file.assertionResults.filter(({ status }) => status === 'failed');
    const name = relative(root, file.name);
    if (failed.length === 0 && file.status === 'failed') return [tell(name, file.message)];
    return failed.map((each) => tell(`${name} › ${each.fullName}`, each.failureMessages.join('\n')));
  });
  return ran({ passed: report.numPassedTests, failed: told.length, told });
}

/**
 * The sums of Playwright's JSON report.
 *
 * @param {string} path
 * @returns {Report} what passed only when tried again has failed
 * @throws {Error} where there is no report or it ran nothing
 */
export function browserReport(path) {
  const { stats, errors, suites } = JSON.parse(readFileSync(path, 'utf8'));
  const specs = suites.flatMap(function all(suite) {
    return [...(suite.specs ?? []), ...(suite.suites ?? []).flatMap(all)];
  });
  const told = specs
    .filter(({ tests }) => tests.some(({ status }) => status === 'unexpected' || status === 'flaky'))
    .map(({ file, line, title, tests }) => {
      const results = tests.flatMap((test) => test.results.flatMap((result) => result.errors ?? []));
      return tell(`${file}:${line} › ${title}`, results.map(({ message }) => message).join('\n'));
    });
  told.push(...errors.map(({ message }) => tell('browser tests', message)));
  return ran({ passed: stats.expected, failed: stats.unexpected + stats.flaky + errors.length, told });
}

function ran(report) {
  if (report.passed + report.failed === 0) throw new Error('it ran no test');
  return report;
}

function tell(name, why) {
  const lines = stripVTControlCharacters(String(why ?? ''))
    .split('\n')
    .filter((line) => line.trim() !== '');
  const some = lines.slice(0, mostLines).map((line) => `    ${line.slice(0, mostOfLine)}`);
  return [`FAILED ${name}`, ...some].join('\n');
}
