import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root } from '../start/install.mjs';
import type { Figure } from './figures';
import { access } from './access';
import { actions } from './actions';
import { firstLoad } from './first-load';
import { comparing } from './comparing';
import { dashboard } from './dashboard';
import { decisions } from './decisions';
import { door } from './door';
import { exporting } from './export';
import { hands } from './hands';
import { importing } from './import';
import { history } from './history';
import { list } from './list';
import { outbox } from './outbox';
import { people } from './people';
import { proof } from './proof';
import { publicForm } from './public-form';
import { policy } from './policy';
import { scale } from './scale';
import { signingIn } from './sign-in';
import { smallestGroup } from './smallest-group';
import { gridSizes, listSizes } from './sizes';

const benchmarks: Record<string, () => Promise<Figure[]>> = {
  'first-load': firstLoad,
  list,
  dashboard,
  hands,
  policy,
  decisions,
  comparing,
  sizes: listSizes,
  importing,
  exporting,
  grid: gridSizes,
  access,
  people,
  door,
  'sign-in': signingIn,
  'smallest-group': smallestGroup,
  actions,
  outbox,
  proof,
  history,
  'public-form': publicForm,
  scale,
};

/**
 * Runs all benchmarks or the one named, prints each figure as a line of JSON, and writes them into docs/benchmarks.md.
 */
const wanted = process.argv[2];
if (wanted !== undefined && !Object.hasOwn(benchmarks, wanted)) {
  console.error(`There is no benchmark ${wanted}. There are: ${Object.keys(benchmarks).join(', ')}.`);
  process.exit(1);
}
for (const [name, run] of Object.entries(benchmarks)) {
  if (wanted !== undefined && wanted !== name) continue;
  const figures = await run();
  writeTable(name, figures);
  for (const figure of figures) console.log(JSON.stringify(figure));
}

/** Puts the figures between the marks of their benchmark. */
function writeTable(name: string, figures: Figure[]): void {
  const file = join(root, 'docs', 'benchmarks.md');
  const marks = [`<!-- ${name} -->`, `<!-- /${name} -->`] as const;
  const rows = figures.map(
    (figure) =>
      `| ${figure.name} | ${figure.ours} ${figure.unit} | ${figure.reference} ${figure.unit} | ${figure.ratio} ` +
      `| ${figure.aim} |`,
  );
  const table = ['| figure | ours | reference | ratio | aim |', '| --- | --- | --- | --- | --- |', ...rows].join('\n');
  const text = readFileSync(file, 'utf8');
  const [from, to] = [text.indexOf(marks[0]), text.indexOf(marks[1])];
  if (from < 0 || to < 0) throw new Error(`docs/benchmarks.md has no place for ${name}`);
  writeFileSync(file, `${text.slice(0, from + marks[0].length)}\n${table}\n${text.slice(to)}`);
}
