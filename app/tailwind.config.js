/** Colours are variables, so that Dusk and Noon differ in one place: global.css. */
const v = (name) => `var(--${name})`;
const names = [
  'ground',
  'surface',
  'raised',
  'line',
  'edge',
  'ink',
  'quiet',
  'accent',
  'on-accent',
  'in-hand',
  'surround',
  'scope',
  'scope-ink',
  'warn',
];
module.exports = {
  content: ['./routes/**/*.tsx', './src/**/*.tsx'],
  presets: [require('nativewind/preset')],
  theme: {
    extend: {
      colors: Object.fromEntries(names.map((name) => [name, v(name)])),
      borderWidth: { stroke: v('stroke') },
      fontFamily: { sans: ['Hyperlegible'], bold: ['HyperlegibleBold'] },
      fontSize: { sm: ['13px', '17px'], base: ['15px', '20px'], lg: ['18px', '24px'], xl: ['24px', '30px'] },
      borderRadius: { DEFAULT: '4px' },
    },
  },
};
