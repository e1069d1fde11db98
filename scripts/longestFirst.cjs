const Sequencer = require('@jest/test-sequencer').default;

/** Tests that take minutes, longest first: begun last, one of them would run alone at the end. */
const LONG = [
  ...['demo/known/known', 'server/storm', 'server/robust', 'server/crash', 'media/export/film', 'media/oddFiles'],
  ...['cli/cli', 'server/reading', 'media/documents/documents', 'server/fullDisk', 'server/deliveries'],
];

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
