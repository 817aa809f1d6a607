import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { root } from './install.mjs';
import { browserReport, vitestReport } from './reports.mjs';

const folder = mkdtempSync(join(tmpdir(), 'stone-porch-reports-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

function written(report: object | string): string {
  const path = join(folder, 'report.json');
  writeFileSync(path, typeof report === 'string' ? report : JSON.stringify(report));
  return path;
}

describe("a runner's report", () => {
  const file = (name: string, status: string, more: object) => ({ name: join(root, name), status, ...more });

  it('of Vitest counts what failed, files that could not be loaded too, and says why', () => {
    const long = Array.from({ length: 40 }, (_, i) => `line ${i}`).join('\n');
    const one = {
      status: 'failed',
      fullName: 'a well is deep',
      failureMessages: [`\u001B[31mToo shallow\u001B[39m\n${long}`],
    };
    const report = vitestReport(
      written({
        numPassedTests: 3,
        testResults: [
          file('core/a.test.ts', 'failed', { assertionResults: [{ status: 'passed' }, one] }),
          file('core/b.test.ts', 'failed', { assertionResults: [{ status: 'skipped' }], message: 'no such module' }),
          file('core/c.test.ts', 'passed', { assertionResults: [{ status: 'passed' }, { status: 'passed' }] }),
        ],
      }),
    );
    expect([report.passed, report.failed]).toEqual([3, 2]);
    const [first, second] = report.told as [string, string];
    expect(first).toMatch(/^FAILED core\/a\.test\.ts › a well is deep\n {4}Too shallow\n {4}line 0\n/);
    expect(first.split('\n').length).toBeLessThan(20);
    expect(second).toBe('FAILED core/b.test.ts\n    no such module');
  });

  it('of Playwright counts what failed, also where it passed when tried again', () => {
    const spec = (title: string, status: string, message?: string) => ({
      title,
      file: 'a.e2e.ts',
      line: 7,
      tests: [{ status, results: [{ errors: message ? [{ message }] : [] }] }],
    });
    const suites = [
      { specs: [spec('opens', 'expected')], suites: [{ specs: [spec('shuts', 'unexpected', 'it stayed open')] }] },
      { suites: [{ specs: [spec('creaks', 'flaky', 'once')] }] },
    ];
    const stats = { expected: 1, unexpected: 1, flaky: 1 };
    const report = browserReport(written({ stats, errors: [{ message: 'no server' }], suites }));
    expect([report.passed, report.failed]).toEqual([1, 3]);
    expect(report.told).toEqual([
      'FAILED a.e2e.ts:7 › shuts\n    it stayed open',
      'FAILED a.e2e.ts:7 › creaks\n    once',
      'FAILED browser tests\n    no server',
    ]);
  });

  it('that ran nothing, or is none, is no result', () => {
    expect(() => vitestReport(written({ numPassedTests: 0, testResults: [] }))).toThrow('it ran no test');
    expect(() => browserReport(written('{'))).toThrow(SyntaxError);
  });
});
