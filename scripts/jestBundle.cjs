const { execFileSync } = require('node:child_process');
const { mkdtempSync } = require('node:fs');
const { tmpdir } = require('node:os');
const { join } = require('node:path');

/**
 * Threads, and servers that tests start, run compiled code: it must be that of the sources under test. What tests and their
 * programs leave in the folder for temporary files lies in one of the run's own, which goes with it (`jestSweep.cjs`).
 */
module.exports = () => {
  execFileSync(process.execPath, [join(__dirname, 'bundle.mjs')], { stdio: 'inherit' });
  process.env.INKAVO_RUN_FOLDER = mkdtempSync(join(tmpdir(), 'inkavo-run-'));
  process.env.TMPDIR = process.env.INKAVO_RUN_FOLDER;
};
