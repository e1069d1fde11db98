export { Exports as default } from '../src/screens/export/Exports';
