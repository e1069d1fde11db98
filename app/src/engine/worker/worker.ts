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

/** Interface of a computing worker. */
const api = {
  ...bakingApi,
  ...frameApi,
  ...scopesApi,
  ...areasApi,
  ...solvingApi,

  /** A still frame as compressed by the server, as bytes of 16-bit planes. */
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
