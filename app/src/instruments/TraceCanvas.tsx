import { useEffect, useRef } from 'react';
import type { PaintedTrace } from '../engine/paintTrace';

/** A painted trace on a canvas that fills its place; redrawn when a new one comes. */
export function TraceCanvas({ trace, testID }: { trace: PaintedTrace | null; testID?: string }) {
  const ref = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const canvas = ref.current;
    if (!canvas || !trace) return;
    if (canvas.width !== trace.columns) canvas.width = trace.columns;
    if (canvas.height !== trace.rows) canvas.height = trace.rows;
    canvas.getContext('2d')!.putImageData(new ImageData(trace.pixels, trace.columns, trace.rows), 0, 0);
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
