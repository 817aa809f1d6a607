/** Arrows point one way: web → client → server → core. Records are reached through one gate. */
module.exports = {
  forbidden: [
    {
      name: 'core-stands-alone',
      severity: 'error',
      comment: 'core has no I/O and knows nobody else',
      from: { path: '^core/', pathNot: '\\.(test|fixture)\\.ts$' },
      to: { pathNot: '^core/|^node_modules/(big\\.js|@types/big\\.js|joi|email-providers|colord|postcss[a-z-]*)/' },
    },
    {
      name: 'core-no-node',
      severity: 'error',
      from: { path: '^core/', pathNot: '\\.(test|fixture)\\.ts$' },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'specs-know-core-alone',
      severity: 'error',
      comment: 'what core has to know of a kind of section is told without the server and the web',
      from: { path: '^sections/[^/]+/(spec|facts)\\.ts$|^sections/(specs|definition)\\.ts$' },
      to: { pathNot: '^(core|sections)/|^node_modules/joi/' },
    },
    {
      name: 'kinds-serve-through-the-gate',
      severity: 'error',
      comment: 'what the server does for a kind of section goes through the face of the gate',
      from: { path: '^sections/[^/]+/serve\\.ts$' },
      to: { path: '^web/' },
    },
    {
      name: 'shown-without-the-builder',
      severity: 'error',
      comment: 'a member never downloads what a builder sets a section with',
      from: { path: '^sections/', pathNot: '^sections/(edit\\.ts|[^/]+/Edit\\.tsx)$' },
      to: { path: '^web/builder/' },
    },
    { name: 'server-knows-no-web', severity: 'error', from: { path: '^server/' }, to: { path: '^(web|e2e|bench)/' } },
    {
      name: 'server-knows-no-demo',
      severity: 'error',
      from: { path: '^server/', pathNot: '\\.(test|fixture)\\.ts$' },
      to: { path: '^(demo|start)/' },
    },
    {
      name: 'web-takes-only-types-from-server',
      severity: 'error',
      from: { path: '^web/' },
      to: { path: '^server/', dependencyTypesNot: ['type-only'] },
    },
    {
      name: 'web-asks-through-client',
      severity: 'error',
      from: { path: '^(web|sections/[^/]+/[A-Z])', pathNot: '^web/client/' },
      to: { path: '^server/' },
    },
    {
      name: 'ui-knows-no-screens',
      severity: 'error',
      from: { path: '^web/ui/' },
      to: { path: '^web/(builder|portal|client)/' },
    },
    {
      name: 'primitives-in-ui-alone',
      severity: 'error',
      comment: 'screens use the parts of web/ui, which have one look and one set of states',
      from: { path: '^(web|sections)/', pathNot: '^web/ui/' },
      to: { path: '^node_modules/(radix-ui|@radix-ui|downshift)' },
    },
    {
      name: 'portal-knows-no-builder',
      severity: 'error',
      comment: 'a member never downloads the builder',
      from: { path: '^web/portal/' },
      to: { path: '^web/builder/|^web/client/builder' },
    },
    {
      name: 'one-gate',
      severity: 'error',
      comment: 'nothing but the gate runs statements on records; sources are opened in one place and handed on',
      from: {
        path: '^(server|web|sections)/',
        pathNot:
          '^server/(gate|sources|store)/|^server/definitions/definitions\\.ts$|^server/connections/connections\\.ts$|\\.(test|fixture)\\.ts$',
      },
      to: {
        path: '^server/sources/',
        pathNot:
          '^server/sources/(connection-problem|gone|catalogue-changed|outcome-unknown|asker|reachable|' +
          'shape-refused)\\.ts$',
        dependencyTypesNot: ['type-only'],
      },
    },
    {
      name: 'sql-only-in-the-gate',
      severity: 'error',
      comment: 'SQL for records is made in the gate alone',
      from: { path: '^(server|web|sections)/', pathNot: '^server/(gate|sources)/|\\.(test|fixture)\\.ts$' },
      to: {
        path: '^core/sql/sql\\.ts$|^core/condition/compile\\.ts$|^core/dialect/(of|mariadb|postgresql)\\.ts$',
        dependencyTypesNot: ['type-only'],
      },
    },
    {
      name: 'the-gate-has-one-face',
      severity: 'error',
      comment: 'what gate.ts does not give out is for the gate alone; its own tests stand inside',
      from: { pathNot: '^server/gate/' },
      to: { path: '^server/gate/', pathNot: '^server/gate/gate\\.ts$' },
    },
    {
      name: 'driver-only-below',
      severity: 'error',
      from: {
        path: '^server/',
        pathNot: '^server/(sources|store)/|^server/sessions/limiter-client\\.ts$|\\.(test|fixture)\\.ts$',
      },
      to: { path: '^node_modules/(mariadb|pg)/' },
    },
    {
      name: 'no-circles-of-files',
      severity: 'error',
      comment: 'of types neither',
      from: { pathNot: '^node_modules' },
      to: { circular: true },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    enhancedResolveOptions: {
      extensions: ['.ts', '.tsx', '.mts', '.mjs', '.js', '.json', '.css'],
      exportsFields: ['exports'],
      conditionNames: ['import', 'require', 'node', 'default', 'types'],
    },
  },
};
