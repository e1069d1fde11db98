const { rmSync } = require('node:fs');

/** Removes what `jestBundle.cjs` has made. */
module.exports = () =>
  rmSync(process.env.INKAVO_RUN_FOLDER, { recursive: true, force: true, maxRetries: 5, retryDelay: 200 });
