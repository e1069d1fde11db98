import { useEffect, useRef } from 'react';
import { besideEachOther, overEachOther } from '../engine/worker/paintTrace';
import { useBench, type BenchState } from '../state/bench';

/** The clip's own trace, and that of the reference: below its half of the picture, on the pad below the clip's. */
function shown({ scope, keptTraces, beside, scopeView }: BenchState, trace: 'main' | 'pad') {
  const [own, other] = [scope?.[trace], keptTraces?.[trace]];
  if (!own || !other) return own;
  if (trace === 'pad') return overEachOther(own, other);
  return beside ? besideEachOther(other, own, scopeView === 'parade' ? 3 : 1) : own;
}

/** A trace on a canvas that fills its container. Drawn directly when the scopes have it, bypassing React. */
export function TraceCanvas({ trace, testID }: { trace: 'main' | 'pad'; testID?: string }) {
  const ref = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const draw = (): void => {
      const canvas = ref.current;
      const painted = shown(useBench.getState(), trace);
      if (!canvas || !painted) return;
      if (canvas.width !== painted.columns) canvas.width = painted.columns;
      if (canvas.height !== painted.rows) canvas.height = painted.rows;
      canvas.getContext('2d')!.putImageData(new ImageData(painted.pixels, painted.columns, painted.rows), 0, 0);
    };
    draw();
    const stops = [useBench.subscribe((s) => s.scope, draw), useBench.subscribe((s) => s.keptTraces, draw)];
    return () => stops.forEach((stop) => stop());
  }, [trace]);
  return (
    <canvas
      ref={ref}
      aria-hidden
      data-testid={testID}
      style={{ position: 'absolute', inset: 0, width: '100%', height: '100%' }}
    />
  );
}
