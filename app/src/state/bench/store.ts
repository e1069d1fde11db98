import type { BenchState } from '.';

/** Types for creating the parts of the bench's state. */
export type SetBench = (part: Partial<BenchState>) => void;
export type GetBench = () => BenchState;
