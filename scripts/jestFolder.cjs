const { mkdtempSync } = require('node:fs');
const { tmpdir } = require('node:os');
const { join } = require('node:path');

/**
 * What tests and their programs leave in the folder for temporary files lies in one of the run's own, which goes with it
 * (`jestSweep.cjs`).
 */
module.exports = () => {
  if (process.env.INKAVO_RUN_FOLDER) return;
  process.env.INKAVO_RUN_FOLDER = mkdtempSync(join(tmpdir(), 'inkavo-run-'));
  process.env.TMPDIR = process.env.INKAVO_RUN_FOLDER;
};
