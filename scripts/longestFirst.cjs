const Sequencer = require('@jest/test-sequencer').default;

/** Tests that take minutes, longest first: begun last, one of them would run alone at the end. */
const LONG = ['demo/known/known', 'server/robust', 'media/export/export', 'server/server', 'cli/cli', 'demo/truth'];

/** Begins with the tests that take longest; a fresh clone knows no times of earlier runs. */
module.exports = class extends Sequencer {
  sort(tests) {
    const rank = ({ path }) => {
      const at = LONG.findIndex((name) => path.endsWith(`${name}.test.ts`));
      return at < 0 ? LONG.length : at;
    };
    return super.sort(tests).sort((a, b) => rank(a) - rank(b));
  }
};
