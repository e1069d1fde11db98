const { rmSync } = require('node:fs');

/** Removes what `jestBundle.cjs` has made. What a program that is still ending writes there fails no run. */
module.exports = () => {
  try {
    rmSync(process.env.INKAVO_RUN_FOLDER, { recursive: true, force: true, maxRetries: 5, retryDelay: 200 });
  } catch (error) {
    process.stderr.write(`Left behind: ${error.message}\n`);
  }
};
