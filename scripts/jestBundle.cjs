const { execFileSync } = require('node:child_process');
const { join } = require('node:path');

/** Threads, and servers that tests start, run compiled code: it must be that of the sources under test. */
module.exports = () => void execFileSync(process.execPath, [join(__dirname, 'bundle.mjs')], { stdio: 'inherit' });
