/** Colours are variables, so that Dusk and Noon differ in one place: src/theme/modes.ts. */
const v = (name) => `var(--${name})`;
module.exports = {
  content: ['./routes/**/*.tsx', './src/**/*.tsx'],
  presets: [require('nativewind/preset')],
  theme: {
    extend: {
      colors: {
        ground: v('ground'),
        surface: v('surface'),
        raised: v('raised'),
        line: v('line'),
        ink: v('ink'),
        quiet: v('quiet'),
        accent: v('accent'),
        'on-accent': v('on-accent'),
        surround: v('surround'),
        scope: v('scope'),
        'scope-ink': v('scope-ink'),
        warn: v('warn'),
      },
      fontFamily: { sans: ['Hyperlegible'], bold: ['HyperlegibleBold'] },
      fontSize: { sm: ['13px', '18px'], base: ['15px', '20px'], lg: ['18px', '24px'], xl: ['24px', '30px'] },
      borderRadius: { DEFAULT: '4px' },
    },
  },
};
