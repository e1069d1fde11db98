const { execFileSync } = require('node:child_process');
const { join } = require('node:path');
const folder = require('./jestFolder.cjs');

/** Threads, and servers that tests start, run compiled code: it must be that of the sources under test. */
module.exports = () => {
  execFileSync(process.execPath, [join(__dirname, 'bundle.mjs')], { stdio: 'inherit' });
  folder();
};
