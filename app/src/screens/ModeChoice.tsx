import { hasWebgl } from '../engine/picture/screenPicture';
import { useDrawing } from '../state/drawing';
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

const DRAWINGS = [
  { value: 'auto', title: 'Drawn: automatic', label: 'Picture drawn by what is faster' },
  { value: 'gpu', title: 'by the GPU', label: 'Picture drawn by the GPU' },
  { value: 'cpu', title: 'by the CPU', label: 'Picture drawn by the CPU' },
] as const;

/** Renderer of the picture: the CPU is for devices with a slow or faulty GPU. No choice without WebGL2. */
export function DrawingChoice() {
  const { drawing, setDrawing } = useDrawing();
  if (!hasWebgl()) return null;
  return <Choice label="What draws the picture" value={drawing} options={DRAWINGS} onChange={setDrawing} />;
}

/** The hand in use: handles are on its side. */
export function HandChoice() {
  const { hand, setHand } = useHand();
  return <Choice label="Working hand" value={hand} options={HANDS} onChange={setHand} />;
}

/** Colour scheme: dark for indoors, or light for the sun. */
export function ModeChoice() {
  const { mode, setMode } = useMode();
  return <Choice label="Screen mode" value={mode} options={MODES} onChange={setMode} />;
}
