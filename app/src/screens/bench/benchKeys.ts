import { useStore } from 'zustand';
import { shownLists, shownTrim, useBench, type ScopeView } from '../../state/bench';
import { useClipboard } from '../../state/clipboard';
import { endHere, goTo, startHere } from '../../state/playhead';
import { findStep, ownedSteps } from '../../state/stepLists';
import { useShortcuts } from '../../ui/shortcuts';
import { enterFull, leaveFull } from './Full';
import { copySteps, pasteCopied } from './copying';
import { togglePlay } from './proxyJob';
import { zoomToPixels } from './zoom';
import { WHOLE } from '../../engine/picture/look';
import { useEngine } from '../../engine/context';

const VIEWS: readonly ScopeView[] = ['luma', 'parade', 'pad', 'histogram'];

const by = (frames: number) => (): void => goTo(useBench.getState().frame + frames);

function takeNext(by: 1 | -1): void {
  const state = useBench.getState();
  const all = ownedSteps(shownLists(state));
  if (all.length === 0) return;
  const at = all.findIndex((o) => o.step.id === state.inHand);
  state.take(all[(at + by + all.length) % all.length].step.id);
}

function turnStep(): void {
  const { lists, inHand, setStep } = useBench.getState();
  const owned = findStep(lists, inHand);
  if (owned) setStep(owned.step.id, { on: !owned.step.on });
}

/** Whether text is selected, which Ctrl+C copies. */
const textMarked = (): boolean => (window.getSelection()?.toString() ?? '') !== '';

/** Keys of the bench. Letters stand for English words: start, end, before, reading, mend, trace, next, off. */
export function useBenchKeys({ onHelp }: { onHelp(): void }): void {
  const history = useStore(useBench.temporal);
  const engine = useEngine();
  const { set } = useBench.getState();
  useShortcuts([
    { keys: 'Space', shown: 'Space', what: 'Play, stop', run: togglePlay },
    { keys: 'ArrowLeft', shown: '←', what: 'One frame back', run: by(-1) },
    { keys: 'ArrowRight', shown: '→', what: 'One frame on', run: by(1) },
    { keys: 'Shift+ArrowLeft', shown: 'Shift ←', what: 'Ten frames back', run: by(-10) },
    { keys: 'Shift+ArrowRight', shown: 'Shift →', what: 'Ten frames on', run: by(10) },
    { keys: 'Home', shown: 'Home', what: 'To in', run: () => goTo(shownTrim(useBench.getState()).inFrame) },
    { keys: 'End', shown: 'End', what: 'To out', run: () => goTo(shownTrim(useBench.getState()).outFrame) },
    { keys: 's', shown: 'S', what: 'Start here: set in', run: startHere },
    { keys: 'e', shown: 'E', what: 'End here: set out', run: endHere },
    {
      keys: 'b',
      shown: 'B',
      what: 'Before, and after again',
      run: () => set({ untouched: !useBench.getState().untouched, spot: null }),
    },
    { keys: 'r', shown: 'R', what: 'Next reading', run: () => set({ reading: useBench.getState().reading + 1 }) },
    { keys: 'm', shown: 'M', what: 'Mend what the reading says', run: () => clickLabelled(/^Mend with/) },
    {
      keys: 't',
      shown: 'T',
      what: 'Next trace',
      run: () => set({ scopeView: VIEWS[(VIEWS.indexOf(useBench.getState().scopeView) + 1) % VIEWS.length] }),
    },
    { keys: 'n', shown: 'N', what: 'Next step', run: () => takeNext(1) },
    { keys: 'Shift+N', shown: 'Shift N', what: 'Step before', run: () => takeNext(-1) },
    { keys: 'o', shown: 'O', what: 'Step off, and on again', run: turnStep },
    {
      keys: '1',
      shown: '1',
      what: '100 %, and the whole picture again',
      run: () => {
        if (useBench.getState().view.width < 1) set({ view: WHOLE });
        else zoomToPixels(engine.current?.width);
      },
    },
    {
      keys: 'w',
      shown: 'W',
      what: 'Whole screen',
      run: () => (useBench.getState().full ? leaveFull() : enterFull()),
    },
    { keys: '$mod+z', shown: 'Ctrl Z', what: 'Undo', run: () => history.undo() },
    { keys: '$mod+Shift+z', shown: 'Ctrl Shift Z', what: 'Redo', run: () => history.redo() },
    {
      keys: '$mod+c',
      shown: 'Ctrl C',
      what: 'Copy the step in hand',
      run: () => {
        const { lists, inHand } = useBench.getState();
        const owned = findStep(lists, inHand);
        if (owned && !textMarked()) copySteps([owned.step]);
      },
    },
    {
      keys: '$mod+v',
      shown: 'Ctrl V',
      what: 'Paste steps',
      run: () => {
        if (useClipboard.getState().steps.length) pasteCopied();
      },
    },
    { keys: 'Shift+?', shown: '?', what: 'This list', run: onHelp },
  ]);
}

/** Presses the button with a label, if there is one: keys and buttons act alike. */
function clickLabelled(label: RegExp): void {
  const buttons = [...document.querySelectorAll<HTMLElement>('[role=button][aria-label]')];
  buttons.find((b) => label.test(b.getAttribute('aria-label')!))?.click();
}
