import { useEngine } from '../../../engine/context';
import { WHOLE } from '../../../engine/picture/look';
import { useBench } from '../../../state/bench';
import { ZoomIn, ZoomOut } from '../../../ui/icons';
import { Tool } from '../../../ui/Tool';
import { zoomToPixels } from '../zoom';

/** A radius below half a pixel of the screen is hardly to be seen. */
const SEEN = 0.5;

/** Whether the picture on the screen is too small for what a step does pixel by pixel. */
export function useTooFine(radius: number): boolean {
  const engine = useEngine();
  const view = useBench((s) => s.view);
  const across = useBench((s) => s.opened?.clip.facts.width ?? 1);
  // The size of the picture is known once a frame is shown in it.
  const shown = useBench((s) => s.atRest) && engine.current ? engine.current.width / view.width : across;
  // One to one there is no more to be seen.
  return radius * shown < SEEN && shown < across - 1;
}

export const TOO_FINE = 'Too fine to be seen at this size.';

/** For steps that are judged pixel by pixel: there and back. */
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
