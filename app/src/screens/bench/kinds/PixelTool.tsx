import { useEngine } from '../../../engine/context';
import { WHOLE } from '../../../engine/look';
import { useBench } from '../../../state/bench';
import { ZoomIn, ZoomOut } from '../../../ui/icons';
import { Tool } from '../../../ui/Tool';
import { zoomToPixels } from '../zoom';

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
