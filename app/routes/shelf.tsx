export { ShelfScreen as default } from '../src/screens/shelf/ShelfScreen';
