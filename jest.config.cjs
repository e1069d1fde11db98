const esbuild = { '^.+\\.(m?[jt]s)$': '<rootDir>/scripts/jestEsbuild.cjs' };
const node = {
  rootDir: __dirname,
  testEnvironment: 'node',
  globalSetup: '<rootDir>/scripts/jestBundle.cjs',
  globalTeardown: '<rootDir>/scripts/jestSweep.cjs',
  transform: esbuild,
  // The packages that are ES modules only.
  transformIgnorePatterns: ['/node_modules/(?!(@tus|srvx|culori|nanoid|@shopify|p-[a-z]+)/)'],
  moduleNameMapper: {},
  // Every look at a global of a test's sandbox is slow; these are handed to each module as constants.
  sandboxInjectedGlobals: [
    ...['Math', 'Number', 'Array', 'Object', 'Map', 'String'],
    ...[
      'Float32Array',
      'Float64Array',
      'Uint8Array',
      'Uint8ClampedArray',
      'Uint16Array',
      'Uint32Array',
      'Int16Array',
      'Int32Array',
    ],
  ],
};

/** The tests that only compute: no server, no thread, nothing that has to be built first. */
const CORE = ['core', 'demo/known'];
const folders = (names) => names.map((name) => `<rootDir>/${name}`);

module.exports = {
  projects: [
    { ...node, displayName: 'core', globalSetup: '<rootDir>/scripts/jestFolder.cjs', roots: folders(CORE) },
    {
      ...node,
      displayName: 'node',
      roots: folders(['media', 'server', 'cli', 'demo']),
      testPathIgnorePatterns: ['/node_modules/', '<rootDir>/demo/known/'],
    },
    { ...node, displayName: 'e2e', roots: ['<rootDir>/e2e'] },
    {
      displayName: 'app',
      preset: 'jest-expo/web',
      rootDir: `${__dirname}/app`,
      setupFiles: ['<rootDir>/src/testSetup.ts'],
    },
  ],
  testSequencer: '<rootDir>/scripts/longestFirst.cjs',
  // A test that hangs ends; how long one takes is for benchmarks to say, and machines differ by six times.
  testTimeout: 600_000,
  forceExit: true,
};
