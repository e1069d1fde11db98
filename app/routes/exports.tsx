export { Exports as default } from '../src/screens/Exports';
