import '../../noEval';
import { expose } from 'comlink';
import { CpuPicture } from './cpuPicture';
import { GpuPicture } from './gpuPicture';

const renderers = { CpuPicture, GpuPicture };
export type Renderers = typeof renderers;

expose(renderers);
