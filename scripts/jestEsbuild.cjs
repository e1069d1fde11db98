const { transformSync } = require('esbuild');

/** Compiles TypeScript and ES modules for Jest, as tsx does for the programs. */
module.exports = {
  process(source, filename) {
    const loader = filename.endsWith('.ts') ? 'ts' : 'js';
    const { code, map } = transformSync(source, {
      loader,
      format: 'cjs',
      target: 'node20',
      // Jest has no loader for it: required when it is reached.
      supported: { 'dynamic-import': false },
      sourcemap: true,
      sourcefile: filename,
    });
    return { code, map };
  },
};
