import type { BenchState } from '.';

/** What the parts of the bench's state are made with. */
export type SetBench = (part: Partial<BenchState>) => void;
export type GetBench = () => BenchState;
