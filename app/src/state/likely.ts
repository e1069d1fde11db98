import type { FirstPass } from '@inkavo/core/reading/firstPass';

/** From this likelihood on the best explanation is likelier than all others together. */
const LIKELIER = 0.5;

/** Whether the best explanation is likelier than all others together. */
export const isLikely = ({ explanations: [best] }: FirstPass): boolean => best.likelihood >= LIKELIER;
