import type { Figure } from './figures';
import { access } from './access';
import { actions } from './actions';
import { firstLoad } from './first-load';
import { cluster } from './cluster';
import { changeReport } from './change-report';
import { comparing } from './comparing';
import { dashboard } from './dashboard';
import { decisions } from './decisions';
import { door } from './door';
import { exporting } from './export';
import { hands } from './hands';
import { importing } from './import';
import { history } from './history';
import { keyList } from './key-list';
import { list } from './list';
import { manyPortals } from './many-portals';
import { outbox } from './outbox';
import { people } from './people';
import { proof } from './proof';
import { publicForm } from './public-form';
import { policy } from './policy';
import { scale } from './scale';
import { signingIn } from './sign-in';
import { smallestGroup } from './smallest-group';
import { gridSizes, listSizes } from './sizes';
import { workers } from './workers';
import { writeBetween } from './write-between';

const benchmarks: Record<string, () => Promise<Figure[]>> = {
  'first-load': firstLoad,
  list,
  'key-list': keyList,
  dashboard,
  hands,
  policy,
  decisions,
  comparing,
  'change-report': changeReport,
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
  'many-portals': manyPortals,
  workers,
  cluster,
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
  writeBetween(name, tableOf(figures), 'benchmarks.md');
  for (const figure of figures) console.log(JSON.stringify(figure));
}

function tableOf(figures: Figure[]): string[] {
  return [
    '| figure | ours | reference | ratio | aim |',
    '| --- | --- | --- | --- | --- |',
    ...figures.map(
      (figure) =>
        `| ${figure.name} | ${figure.ours} ${figure.unit} | ${figure.reference} ${figure.unit} | ${figure.ratio} ` +
        `| ${figure.aim} |`,
    ),
  ];
}
