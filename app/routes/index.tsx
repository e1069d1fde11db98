export { Outings as default } from '../src/screens/Outings';
