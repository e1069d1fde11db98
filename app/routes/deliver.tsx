export { Deliver as default } from '../src/screens/Deliver';
