import { newStep, type Step } from '../model/grade';
import { holdsHlg, type Delivery } from '../model/delivery';
import type { MediaFacts } from '../model/facts';
import { isStandard, type Profile } from '../model/profile';
import { AS_HLG } from '../steps/lut/library';
import { isOneTable, paramsAt } from './plan';

/** The tag of recordings in hybrid log-gamma (ITU-T H.273). */
export const HLG_TAG = 'arib-std-b67';

/** Whether a recording can be delivered unchanged as hybrid log-gamma. */
export const isHlg = (facts: Pick<MediaFacts, 'tags'>): boolean => facts.tags.transfer === HLG_TAG;

/** Why a recording cannot be delivered in the requested colours, as a sentence; undefined if it can. */
export function colourProblem(
  facts: Pick<MediaFacts, 'tags'>,
  { colour, codec }: Pick<Delivery, 'colour' | 'codec'>,
): string | undefined {
  if (colour === 'standard') return undefined;
  if (!isHlg(facts)) return 'It was not recorded in HLG: it leaves as standard video.';
  return holdsHlg(codec) ? undefined : 'HLG needs 10 bits: choose another format.';
}

/**
 * Whether steps convert the recording to standard video, on which later steps then work. Neutral conversions, and those
 * that assume standard video, do not count.
 */
const converts = (steps: readonly Step[]): boolean =>
  steps.some((step) => {
    const params = paramsAt(step, 0);
    if (!params) return false;
    return step.kind === 'lut' || (step.kind === 'convert' && !isStandard(params.profile as Profile));
  });

/** The colours of a delivery's frames. */
export interface DeliveredColour {
  /** The steps applied. */
  steps: Step[];
  /** `standard`: BT.709. `hlg`: BT.2100 HLG. `own`: HLG with the file's own matrix and primaries. */
  as: 'standard' | 'hlg' | 'own';
}

/**
 * The steps of a delivery as HLG: after a conversion, light beyond reference white is encoded again; without one the
 * steps work on the signal itself, which is delivered as is.
 */
export function deliveredColour(steps: Step[], { colour }: Pick<Delivery, 'colour'>): DeliveredColour {
  if (colour === 'standard') return { steps, as: 'standard' };
  if (!converts(steps)) return { steps, as: 'own' };
  const lut = isOneTable(steps) ? AS_HLG.baked : AS_HLG.own;
  return { steps: [...steps, newStep('lut', 'as-hlg', { lut, title: 'HLG' })], as: 'hlg' };
}
