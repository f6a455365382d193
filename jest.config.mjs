const transform = {
  '^.+\\.m?[jt]sx?$': [
    '@swc/jest',
    {
      jsc: { target: 'es2022', parser: { syntax: 'typescript', tsx: true }, transform: { react: { runtime: 'automatic' } } },
      module: { type: 'commonjs' },
    },
  ],
};
/** Tests run in a sandbox in which every use of a global is slow: loops over texels were four times slower for it. */
const GLOBALS = [
  ...['Math', 'Number', 'Object', 'Array', 'ArrayBuffer', 'SharedArrayBuffer', 'DataView', 'Float32Array', 'Float64Array'],
  ...['Int8Array', 'Int16Array', 'Int32Array', 'Uint8Array', 'Uint8ClampedArray', 'Uint16Array', 'Uint32Array'],
];

const shared = {
  transform,
  // Packages that ship ES modules only.
  transformIgnorePatterns: [
    '/node_modules/(?!(three|three-mesh-bvh|earcut|geotiff|quick-lru|xml-utils|web-worker|lerc|zstddec|fast-png|iobuffer|@gltf-transform|property-graph|ktx-parse|meshoptimizer|idb|culori|watlas)/)',
  ],
  // three's CommonJS build says that it will go: its modules are what the application runs.
  moduleNameMapper: { '^@/(.*)$': '<rootDir>/src/$1', '^three$': '<rootDir>/node_modules/three/build/three.module.js' },
  testEnvironmentOptions: { globalsCleanup: 'off' },
  setupFilesAfterEnv: ['<rootDir>/cli/testing/typedArrays.mjs', '<rootDir>/cli/testing/quickExpect.mjs'],
};

export default {
  testTimeout: 120_000,
  reporters: ['default', '<rootDir>/cli/testing/slowestTests.mjs'],
  projects: [
    {
      ...shared,
      sandboxInjectedGlobals: GLOBALS,
      displayName: 'core',
      testEnvironment: 'node',
      testMatch: ['<rootDir>/{src,cli,demo}/**/*.test.ts'],
      globalSetup: '<rootDir>/cli/testing/postgresForTests.ts',
      globalTeardown: '<rootDir>/cli/testing/stopPostgres.ts',
    },
    { ...shared, displayName: 'ui', testEnvironment: 'jsdom', testMatch: ['<rootDir>/src/ui/**/*.test.tsx'] },
  ],
};
