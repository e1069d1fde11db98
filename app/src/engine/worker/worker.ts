import { expose } from 'comlink';
import { gradeFile, type GradeFileRequest } from '@inkavo/core/formats/gradeFile';
import type { Step } from '@inkavo/core/model/grade';
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

  /** Steps as a file in an open format. */
  async gradeFile(steps: Step[], request: GradeFileRequest) {
    await fetchLuts(steps);
    return gradeFile(steps, request);
  },
};

export type EngineApi = typeof api;
expose(api);
