import { useEffect, useRef } from 'react';
import type { PaintedTrace } from '../engine/paintTrace';
import { useBench } from '../state/bench';

/** A painted trace on a canvas that fills its place. It is drawn at once when the scopes have it, past everything else. */
export function TraceCanvas({ trace, testID }: { trace: 'main' | 'pad'; testID?: string }) {
  const ref = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const draw = (painted: PaintedTrace | null | undefined): void => {
      const canvas = ref.current;
      if (!canvas || !painted) return;
      if (canvas.width !== painted.columns) canvas.width = painted.columns;
      if (canvas.height !== painted.rows) canvas.height = painted.rows;
      canvas.getContext('2d')!.putImageData(new ImageData(painted.pixels, painted.columns, painted.rows), 0, 0);
    };
    draw(useBench.getState().scope?.[trace]);
    return useBench.subscribe(
      (s) => s.scope,
      (scope) => draw(scope?.[trace]),
    );
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
