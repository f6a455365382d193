/**
 * Which folder may know which: arrows point down only, and nothing goes round in circles, types included.
 *
 *   app → ui → viewport, engine → core → kernels;  server → core
 *   inside core, from the bottom up, each row knowing only the rows under it (ORDER)
 */
const ABOVE = {
  kernels: ['app', 'ui', 'viewport', 'engine', 'server', 'core'],
  core: ['app', 'ui', 'viewport', 'engine', 'server'],
  engine: ['app', 'ui', 'viewport', 'server'],
  viewport: ['app', 'ui', 'server'],
  server: ['app', 'ui', 'viewport', 'engine'],
  ui: ['app', 'server'],
};

/** Folders of one row do not know each other. */
const ORDER = [
  ['colour', 'light'],
  ['tile'],
  ['codec', 'mesh'],
  ['rays'],
  ['kinds'],
  ['bake'],
  ['document'],
  ['strata'],
  ['hand'],
  ['keeping'],
  ['piece'],
  ['deliver', 'proof'],
];

const tests = '(__tests__|testing)/|\\.test\\.tsx?$';

const inCore = ORDER.flatMap((row, n) =>
  row.map((folder) => ({
    name: `core-${folder}-knows-only-what-is-under-it`,
    severity: 'error',
    from: { path: `^src/core/${folder}/`, pathNot: tests },
    to: {
      path: `^src/core/(${[...row.filter((f) => f !== folder), ...ORDER.slice(n + 1).flat()].join('|') || 'nothing'})/`,
    },
  })),
);

/** The document is plain data: what reads one loads neither kernels nor anything that evaluates. */
const noKernels = {
  name: 'documents-and-kinds-load-no-kernels',
  severity: 'error',
  from: { path: '^src/core/(tile|colour|kinds|codec|document)/', pathNot: tests },
  // However many steps away.
  to: {
    reachable: true,
    path: ['^src/core/compute\\.ts$', '^src/kernels/(index|wasm|twin|tapsWasm|tapsTwin|noiseTwin|build)'],
  },
};

/** @type {import('dependency-cruiser').IConfiguration} */
export default {
  forbidden: [
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true } },
    ...Object.entries(ABOVE).map(([folder, above]) => ({
      name: `${folder}-knows-nothing-above-it`,
      severity: 'error',
      from: { path: `^src/${folder}/` },
      to: { path: `^src/(${above.join('|')})/` },
    })),
    {
      name: 'twins-are-oracles',
      severity: 'error',
      from: { path: '^(src|cli|demo)/', pathNot: `^src/kernels/|${tests}` },
      to: { path: '^src/kernels/\\w+Twin\\.ts$' },
    },
    {
      name: 'the-core-knows-no-platform',
      severity: 'error',
      from: { path: '^src/core/', pathNot: tests },
      to: { path: '(^|node_modules/)(react|react-dom|next|pg|drizzle-orm)(/|$)' },
    },
    {
      name: 'the-core-knows-no-node',
      severity: 'error',
      from: { path: '^src/core/', pathNot: tests },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'src-knows-nothing-around-it',
      comment: 'Neither the command line nor the demo, in its tests either: the core is tested on its own.',
      severity: 'error',
      from: { path: '^src/' },
      to: { path: '^(cli|demo|e2e)/' },
    },
    {
      name: 'the-demo-knows-no-pages',
      severity: 'error',
      // Its pictures are taken in a browser.
      from: { path: '^demo/', pathNot: '^demo/(screenshots|light/)' },
      to: { path: '^(src/(app|ui|viewport)|cli|e2e)/' },
    },
    ...inCore,
    noKernels,
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '^src/kernels/assembly' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
  },
};
