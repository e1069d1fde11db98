const esbuild = { '^.+\\.(m?[jt]s)$': '<rootDir>/scripts/jestEsbuild.cjs' };
const node = {
  rootDir: __dirname,
  testEnvironment: 'node',
  globalSetup: '<rootDir>/scripts/jestBundle.cjs',
  transform: esbuild,
  // The packages that are ES modules only.
  transformIgnorePatterns: ['/node_modules/(?!(@tus|srvx|culori|nanoid|@shopify|p-[a-z]+)/)'],
  moduleNameMapper: {},
  // Every look at a global of a test's sandbox is slow; these are handed to each module as constants.
  sandboxInjectedGlobals: [
    ...['Math', 'Number', 'Array', 'Object', 'Map', 'Set', 'String'],
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

const inBrowser = { ...node, roots: ['<rootDir>/e2e'] };
/** Browser tests that hold times to a limit, and so want the machine for themselves. */
const TIMED = ['outing', 'picture', 'playing', 'water'].map((name) => `<rootDir>/e2e/${name}.test.ts`);

module.exports = {
  projects: [
    { ...node, displayName: 'node', roots: ['core', 'media', 'server', 'cli', 'demo'].map((d) => `<rootDir>/${d}`) },
    { ...inBrowser, displayName: 'e2e', testPathIgnorePatterns: ['/node_modules/', ...TIMED] },
    { ...inBrowser, displayName: 'timed', testMatch: TIMED },
    {
      displayName: 'app',
      preset: 'jest-expo/web',
      rootDir: `${__dirname}/app`,
      setupFiles: ['<rootDir>/src/testSetup.ts'],
    },
  ],
  testSequencer: '<rootDir>/scripts/longestFirst.cjs',
  testTimeout: 60_000,
  forceExit: true,
};
