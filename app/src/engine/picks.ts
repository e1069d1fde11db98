import type { Area } from '@inkavo/core/scopes/sampleArea';
import type { AutomaticBalance } from '@inkavo/core/steps/balance/automatic';
import type { Stem } from '@inkavo/core/steps/hues';
import { newStem } from '../instruments/hueStems';
import { useBench } from '../state/bench';
import { findStep, joined } from '../state/stepLists';
import type { Moment } from './worker';
import { engine } from './workers';

/** Chroma (Cb, Cr) below which a colour has no hue worth a stem. */
const HUELESS = 0.015;

/** What a touched area of the picture can set: a white, a hue, an exposure. */
export class Picks {
  constructor(private readonly moment: () => Moment) {}

  /** "This is neutral": sets the balance step from an area, or says why not. */
  async neutral(area: Area): Promise<void> {
    const { set, lists, inHand, setParams, take } = useBench.getState();
    const steps = joined(lists);
    const held = findStep(lists, inHand)?.step;
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

  /** Drops a stem of the hues step in hand at the hue of an area. */
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

  /** What each automatic method makes of the frame, for a balance step. */
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
