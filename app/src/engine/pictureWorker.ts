import { expose } from 'comlink';
import { PictureRenderer } from './picture';

expose(PictureRenderer);
