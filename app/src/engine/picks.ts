import { bt709 } from '@inkavo/core/colour/transfer';
import type { Step } from '@inkavo/core/model/grade';
import { isKeyframed, resolveParams } from '@inkavo/core/regions/keyframes';
import { water } from '@inkavo/core/steps/water';
import { depthForNeutral, fitNeutral } from '@inkavo/core/steps/water/pick';
import type { Area } from '@inkavo/core/scopes/sampleArea';
import type { AutomaticBalance } from '@inkavo/core/steps/balance/automatic';
import type { Stem } from '@inkavo/core/steps/hues';
import { newStem } from '../instruments/hueStems';
import { useBench } from '../state/bench';
import { joined } from '@inkavo/core/model/lists';
import { findStep } from '../state/stepLists';
import { matteSchema } from '@inkavo/core/regions/matte';
import { regionSchema } from '@inkavo/core/regions/region';
import type { Moment } from './worker/frame';
import { engine } from './workers';

/** Minimum chroma (Cb, Cr) for a meaningful hue. */
const HUELESS = 0.015;

/** Converts a linear colour to a step's encoded numbers: veilRed … or airRed …. */
const encodedParams = (colour: readonly number[], prefix: 'veil' | 'air'): Record<string, number> =>
  Object.fromEntries(
    ['Red', 'Green', 'Blue'].map((name, c) => [prefix + name, Math.min(1, Math.max(0, bt709.encode(colour[c])))]),
  );

/** Minimum radius of a first colour pick, in chroma. */
const FIRST_REACH = 0.03;

/** Picks from a touched area of the picture: white, hue, exposure and others. */
export class Picks {
  constructor(private readonly moment: () => Moment) {}

  /** "This is neutral": sets the balance step from an area, or reports why not. */
  async neutral(area: Area): Promise<void> {
    const { set, lists, inHand, setParams, take } = useBench.getState();
    const steps = joined(lists);
    const held = findStep(lists, inHand)?.step;
    if (held?.kind === 'water') return this.neutralInWater(held, area);
    const step = held?.kind === 'balance' ? held : steps.find((s) => s.kind === 'balance');
    if (!step)
      return set({
        spot: { area, reading: null, note: { text: 'There is no balance step. Add one first.', refused: true } },
      });
    const answer = await engine().scopes.pick(this.moment(), step.id, area);
    if (!answer) return;
    if (answer.ok) {
      take(step.id);
      setParams(step.id, answer.params);
    }
    const reading = useBench.getState().spot?.reading ?? null;
    set({ picking: null, spot: { area, reading, note: { text: answer.text, refused: !answer.ok } } });
  }

  /** A neutral object under water: fits the losses, and the depth if none is given. */
  private async neutralInWater(step: Step, area: Area): Promise<void> {
    const moment = this.moment();
    const judged = await engine().scopes.pick(moment, step.id, area);
    const found = await engine().scopes.before(moment, step.id, area);
    if (!judged || !found) return;
    if (!judged.ok && judged.reason !== 'coloured') return this.say(area, judged.text, true);
    const params = water.schema.parse(resolveParams(step.params, moment.seconds));
    const depth = params.depth > 0 ? params.depth : depthForNeutral(params, found.colour, params.distance);
    const fit = fitNeutral({ ...params, depth, fitRed: 1, fitBlue: 1 }, found.colour, found.map);
    if (!fit)
      return this.say(
        area,
        'One channel is empty here, so this cannot have been neutral. Pick a slate or pale sand.',
        true,
      );
    // A depth from a log or with keyframes stays; only the losses are fitted.
    const { fitRed, fitBlue, keepWater } = fit;
    const kept = keepWater === undefined ? {} : { keepWater };
    const changed = isKeyframed(step.params.depth)
      ? { fitRed, fitBlue, ...kept }
      : { ...(params.depth > 0 ? {} : { depth }), ...fit };
    useBench.getState().setParams(step.id, changed);
    const how = params.depth > 0 ? 'Fitted to this neutral' : `As at ${depth.toFixed(1)} m, fitted to this neutral`;
    const losses = `red ×${fitRed.toFixed(2)}, blue ×${fitBlue.toFixed(2)} of the type's loss.`;
    const open = keepWater === undefined ? '' : ' It looked like open water, of which none is kept any more.';
    this.say(area, `${how}: ${losses}${open}`, false);
  }

  /** "This is open water" or "this is haze": sets the veil or airlight of the step in hand from an area. */
  async colourOf(area: Area, prefix: 'veil' | 'air'): Promise<void> {
    const { lists, inHand, setParams, set } = useBench.getState();
    const step = findStep(lists, inHand)?.step;
    if (step?.kind !== (prefix === 'veil' ? 'water' : 'haze')) return set({ picking: null });
    const found = await engine().scopes.before(this.moment(), step.id, area);
    if (!found) return;
    // Open water was found where none was kept: keep it from now on.
    const keeps = prefix === 'veil' && step.params.keepWater === 0;
    setParams(step.id, { ...encodedParams(found.colour, prefix), ...(keeps ? { keepWater: 1 } : {}) });
    const water = `Taken as open water: its veil comes off${keeps ? ', and open water keeps its colour' : ''}.`;
    this.say(area, prefix === 'veil' ? water : 'Taken as the colour of the haze.', false);
  }

  /** Estimates the airlight of the frame, for a haze step. */
  async airlight(stepId: string): Promise<boolean> {
    const found = await engine().scopes.airlight(this.moment(), stepId);
    if (found) useBench.getState().setParams(stepId, encodedParams(found, 'air'));
    return found !== null;
  }

  private say(area: Area, text: string, refused: boolean): void {
    const { spot, set } = useBench.getState();
    set({
      ...(refused ? {} : { picking: null }),
      spot: { area, reading: spot?.reading ?? null, note: { text, refused } },
    });
  }

  /** Adds a stem to the hues step in hand, at the hue of an area. */
  async hue(area: Area): Promise<void> {
    const { lists, inHand, setParams, set } = useBench.getState();
    const step = findStep(lists, inHand)?.step;
    if (step?.kind !== 'hues') return set({ picking: null });
    const found = await engine().scopes.hueAt(this.moment(), step.id, area);
    if (!found) return;
    const reading = useBench.getState().spot?.reading ?? null;
    if (found.chroma < HUELESS) {
      const text = 'This is too near to grey to have a hue. Tap a stronger colour.';
      return set({ spot: { area, reading, note: { text, refused: true } } });
    }
    const stems = step.params.stems as Stem[];
    setParams(step.id, { stems: [...stems, newStem(found.hue)] });
    set({ picking: null, stem: stems.length, spot: null });
  }

  /** Adds a colour to, or excludes it from, the region of the step in hand. */
  async like(area: Area, away: boolean): Promise<void> {
    const { lists, inHand, setParams, set } = useBench.getState();
    const step = findStep(lists, inHand)?.step;
    const region = findStep(lists, step?.region ?? null)?.step;
    if (!step || !region) return set({ picking: null });
    const found = await engine().scopes.colourBefore(this.moment(), step.id, area);
    if (!found) return;
    // Another pick may have been made meanwhile.
    const now = findStep(useBench.getState().lists, region.id)?.step ?? region;
    const { matte } = regionSchema.parse(now.params);
    const like = matte?.like;
    const picks = [...(like?.picks ?? []), { colour: found.colour, away }].slice(-16);
    // A dragged area is selected entirely.
    const reach = away ? (like?.reach ?? FIRST_REACH) : Math.max(like?.reach ?? FIRST_REACH, found.spread);
    const next = { ...like, picks, reach: Math.min(0.6, reach) };
    setParams(region.id, { matte: matteSchema.parse({ ...matte, like: next }) });
    set({ spot: null });
  }

  /** Results of the automatic methods on this frame, for a balance step. */
  automatic(stepId: string): Promise<AutomaticBalance[]> {
    return engine().scopes.automatic(this.moment(), stepId);
  }

  /** Sets the exposure so that an area has the luma of a grey card. */
  async greyCard(area: Area): Promise<void> {
    const { lists, take, setParams, addStep } = useBench.getState();
    const step = joined(lists).find((s) => s.kind === 'range' && s.on);
    if (!step) addStep('range');
    const id = step?.id ?? useBench.getState().inHand!;
    const found = await engine().scopes.greyCard(this.moment(), id, area);
    if (!found) return;
    take(id);
    setParams(id, { exposure: found.value });
    const { spot, set } = useBench.getState();
    const text = found.reached ? 'Exposed for a grey card of 18 %.' : 'As near to a grey card as exposure reaches.';
    set({ spot: { area, reading: spot?.reading ?? null, note: { text, refused: !found.reached } } });
  }
}
