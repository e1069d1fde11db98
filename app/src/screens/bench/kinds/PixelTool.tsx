import { useEngine } from '../../../engine/context';
import { WHOLE } from '../../../engine/picture/look';
import { useBench } from '../../../state/bench';
import { ZoomIn, ZoomOut } from '../../../ui/icons';
import { Tool } from '../../../ui/Tool';
import { zoomToPixels } from '../zoom';

/** A radius below half a screen pixel is hardly visible. */
const SEEN = 0.5;

/** Whether the picture on the screen is too small for a step with pixel-sized effects. */
export function useTooFine(radius: number): boolean {
  const engine = useEngine();
  const view = useBench((s) => s.view);
  const across = useBench((s) => s.opened?.clip.facts.width ?? 1);
  // The picture's size is known once a frame is shown.
  const shown = useBench((s) => s.atRest) && engine.current ? engine.current.width / view.width : across;
  // No more detail beyond 1:1.
  return radius * shown < SEEN && shown < across - 1;
}

export const TOO_FINE = 'Too fine to be seen at this size.';

/** Toggles 1:1 for steps with pixel-sized effects. */
export function PixelTool() {
  const engine = useEngine();
  const magnified = useBench((s) => s.view.width < 1);
  return (
    <Tool
      label={magnified ? 'Show the whole picture' : 'Show a pixel of the file as one of the screen'}
      short={magnified ? 'Whole' : '100 %'}
      icon={magnified ? ZoomOut : ZoomIn}
      on={false}
      onPress={() => (magnified ? useBench.getState().set({ view: WHOLE }) : zoomToPixels(engine.current?.width))}
    />
  );
}
