const Sequencer = require('@jest/test-sequencer').default;

/** Tests that take minutes, longest first: begun last, one of them would run alone at the end. */
const LONG = [
  ...['demo/known/known', 'server/storm', 'media/seeking', 'server/demo/demo', 'server/robust', 'media/export/film'],
  ...['cli/cli', 'media/oddFiles', 'server/reading', 'server/deliveries', 'media/export/export', 'server/fullDisk'],
  ...['core/follow/follow', 'media/export/formats', 'server/crash', 'media/documents/documents', 'server/intake'],
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
