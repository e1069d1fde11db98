import { useMode } from '../theme/mode';
import { Choice } from '../ui/Choice';

const MODES = [
  { value: 'dusk', title: 'Dusk: indoors' },
  { value: 'noon', title: 'Noon: in the sun' },
] as const;

/** How the screen looks: dark for indoors, or light for the sun. */
export function ModeChoice() {
  const { mode, setMode } = useMode();
  return <Choice label="Screen mode" value={mode} options={MODES} onChange={setMode} />;
}
