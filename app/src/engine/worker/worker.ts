import '../../noEval';
import { expose, transfer } from 'comlink';
import { gradeFile, type GradeFileRequest } from '@inkavo/core/formats/gradeFile';
import type { Step } from '@inkavo/core/model/grade';
import { unpackSamples } from '@inkavo/core/program/cpu/packedSamples';
import { areasApi } from './areas';
import { bakingApi, fetchLuts } from './baking';
import { frameApi } from './measuredFrame';
import { scopesApi } from './scopes';
import { solvingApi } from './solving';

/** What the page asks of a worker that computes. */
const api = {
  ...bakingApi,
  ...frameApi,
  ...scopesApi,
  ...areasApi,
  ...solvingApi,

  /** A frame at rest as the server packs it, as bytes of 16-bit planes. */
  unpack(packed: ArrayBuffer, width: number): ArrayBuffer {
    const { buffer } = unpackSamples(new Uint8Array(packed), width);
    return transfer(buffer, [buffer]);
  },

  /** Steps as a file in an open format. */
  async gradeFile(steps: Step[], request: GradeFileRequest) {
    await fetchLuts(steps);
    return gradeFile(steps, request);
  },
};

export type EngineApi = typeof api;
expose(api);
