import js from '@eslint/js';
import hooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

/** Imports point one way: app → core, server → media → core, cli → media → core. */
const only = (files, forbidden, message) => ({
  files,
  ignores: ['**/*.test.ts', '**/*.test.tsx'],
  rules: {
    'no-restricted-imports': ['error', { patterns: [{ group: forbidden, message }] }],
  },
});

export default tseslint.config(
  {
    ignores: [
      '**/node_modules',
      '**/dist',
      '**/.expo',
      'demo/footage',
      'data',
      'coverage',
      'e2e/out',
      'core/program/cpu/wasm',
      'core/noise/wasm',
    ],
  },
  js.configs.recommended,
  tseslint.configs.recommended,
  {
    rules: {
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_' }],
      'max-lines': ['error', { max: 350, skipBlankLines: true, skipComments: true }],
      eqeqeq: 'error',
    },
  },
  {
    files: ['**/*.cjs', 'app/*.js'],
    rules: { '@typescript-eslint/no-require-imports': 'off' },
    languageOptions: {
      sourceType: 'commonjs',
      globals: { module: 'writable', require: 'readonly', process: 'readonly', __dirname: 'readonly', URL: 'readonly' },
    },
  },
  { files: ['**/*.mjs'], languageOptions: { globals: { process: 'readonly', console: 'readonly' } } },
  { files: ['app/**/*.tsx', 'app/**/*.ts'], ...hooks.configs.flat['recommended-latest'] },
  only(
    ['core/**/*.ts'],
    ['node:*', 'fs', 'path', 'react*', 'expo*', '@inkavo/*'],
    'The core runs anywhere: no Node, no interface, nothing else of the house.',
  ),
  only(
    ['media/**/*.ts'],
    ['@inkavo/server*', '@inkavo/app*', '@inkavo/cli*', 'react*'],
    'Media may import the core only.',
  ),
  only(
    ['app/**/*.ts', 'app/**/*.tsx'],
    ['node:*', '@inkavo/media*', '@inkavo/server*', '@inkavo/cli*'],
    'The application may import the core only.',
  ),
  only(
    ['server/**/*.ts', 'cli/**/*.ts'],
    ['@inkavo/app*', 'react*'],
    'Server and command line may import media and core.',
  ),
);
