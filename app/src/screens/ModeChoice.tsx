import { useHand } from '../state/hand';
import { useMode } from '../theme/mode';
import { Choice } from '../ui/Choice';

const MODES = [
  { value: 'dusk', title: 'Dusk: indoors' },
  { value: 'noon', title: 'Noon: in the sun' },
] as const;

const HANDS = [
  { value: 'left', title: 'Left hand' },
  { value: 'right', title: 'Right hand' },
] as const;

/** The hand that works: handles lie on its side. */
export function HandChoice() {
  const { hand, setHand } = useHand();
  return <Choice label="Working hand" value={hand} options={HANDS} onChange={setHand} />;
}

/** How the screen looks: dark for indoors, or light for the sun. */
export function ModeChoice() {
  const { mode, setMode } = useMode();
  return <Choice label="Screen mode" value={mode} options={MODES} onChange={setMode} />;
}
