import { BaseSequencer, type TestSpecification } from 'vitest/node';

/** The test files that take longest, from some twenty seconds up. */
const long = [
  'start/cluster.test.ts',
  // Where the database was killed at a bad moment, it waits three minutes until that is settled.
  'start/kills.test.ts',
  'start/start.test.ts',
  'start/backup.test.ts',
  'start/workers.test.ts',
  'server/http/non-interference.test.ts',
  'server/gate/judge.test.ts',
  'server/http/refusals.test.ts',
  'server/review/proof-run.test.ts',
  'server/gate/foreign-records.test.ts',
  'test/torture/torture.test.ts',
  'server/portals/connections.test.ts',
  'server/portals/shape-stops.test.ts',
  'server/imports/jobs.test.ts',
  'server/http/shares.test.ts',
  'server/people/mails.test.ts',
  'server/sessions/sight.test.ts',
  'server/portals/two-servers.test.ts',
  'server/gate/adversary.test.ts',
];

/** Those that wait most first, those that are shortest last. */
const projects = ['start', 'server', 'core'];

/**
 * Begins with what takes longest, so that no worker is left alone with it at the end; one project after the other,
 * since a worker whose next file is of another project ends, and all modules are read anew.
 */
export class LongFirst extends BaseSequencer {
  override async sort(files: TestSpecification[]): Promise<TestSpecification[]> {
    const place = ({ moduleId, project }: TestSpecification) => {
      const at = long.findIndex((file) => moduleId.endsWith(`/${file}`));
      return projects.indexOf(project.name) * (long.length + 1) + (at < 0 ? long.length : at);
    };
    return (await super.sort(files)).toSorted((a, b) => place(a) - place(b));
  }
}
