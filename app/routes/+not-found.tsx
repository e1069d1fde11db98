export { NotFound as default } from '../src/screens/NotFound';
