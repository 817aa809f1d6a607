// npm run cluster: the product as it runs on several machines, on this one. `--help` says more. The name ends as that
// of npm start does: by it a data folder knows whether somebody runs on it.
import { command } from './command.mjs';
import { checkNode, installPackages, installPrograms, unpackCopyScripts } from './install.mjs';

const help = `npm run cluster -- [options]

Three databases in a Galera cluster, two servers of Stone Porch, and a proxy before them, with the demo.

  --port N    the port to serve on (4173)
  --data DIR  the data folder (data-cluster)
  --empty     start without the demo
  --help      this text`;

const options = {
  port: { type: 'string', default: '4173' },
  data: { type: 'string', default: 'data-cluster' },
  empty: { type: 'boolean', default: false },
};

await command(help, options, async (values) => {
  checkNode();
  installPrograms(['mariadb', 'dump', 'cluster', 'copying']);
  process.env.PATH = `${unpackCopyScripts()}:${process.env.PATH}`;
  installPackages();
  const { bundledServer } = await import('./bundle.mjs');
  const { runCluster } = await import(`${await bundledServer()}/cluster.mjs`);
  await runCluster(values);
});
