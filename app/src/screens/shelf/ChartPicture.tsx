import { useRef, useState } from 'react';
import { luma709 } from '@inkavo/core/colour/ycbcr';
import { Txt } from '../../ui/Txt';
import { useDrag, type DragPoint } from '../../ui/useDrag';

/** Radius of the sampled area of a patch, as a share of the picture's width. */
const RADIUS = 0.008;
/** Magnification of the loupe, and its size in pixels. */
const ZOOM = 5;
const LOUPE = 124;

/** A position in the picture, as shares of its size, and its mean code value as luma, 0–1. */
export interface Read {
  x: number;
  y: number;
  code: number;
}

export const percent = (v: number): string => `${(100 * v).toFixed(1)} %`;

/** Mean code value, as luma, around a position in a picture shown as recorded. */
function codeAt(img: HTMLImageElement, x: number, y: number): number {
  const { naturalWidth: width } = img;
  const r = Math.max(1, Math.round(RADIUS * width));
  const [left, top] = [Math.round(x * width) - r, Math.round(y * img.naturalHeight) - r];
  const canvas = document.createElement('canvas');
  canvas.width = canvas.height = 2 * r;
  const context = canvas.getContext('2d', { willReadFrequently: true })!;
  context.drawImage(img, -left, -top);
  const { data } = context.getImageData(0, 0, 2 * r, 2 * r);
  let sum = 0;
  for (let o = 0; o < data.length; o += 4) sum += luma709(data[o], data[o + 1], data[o + 2]);
  return sum / (data.length / 4) / 255;
}

const clamp = (v: number): number => Math.min(1, Math.max(0, v));

/**
 * The frame with a filmed chart. During a touch, a loupe in the opposite half shows the area under the finger and its
 * value; on release, the patch is sampled.
 */
export function ChartPicture({
  src,
  taken,
  onTake,
}: {
  src: string;
  taken: readonly Read[];
  onTake(read: Read): void;
}) {
  const box = useRef<HTMLDivElement>(null);
  const img = useRef<HTMLImageElement>(null);
  const [under, setUnder] = useState<(Read & { width: number; height: number }) | null>(null);
  const readAt = ({ x, y, width, height }: DragPoint): Read => {
    const at = { x: clamp(x / width), y: clamp(y / height) };
    return { ...at, code: codeAt(img.current!, at.x, at.y) };
  };
  const show = (p: DragPoint): void => setUnder({ ...readAt(p), width: p.width, height: p.height });
  useDrag(box, {
    onStart: show,
    onMove: show,
    onEnd(p) {
      setUnder(null);
      onTake(readAt(p));
    },
    onCancel: () => setUnder(null),
  });
  return (
    <div ref={box} style={{ position: 'relative', cursor: 'crosshair', touchAction: 'none' }}>
      <img
        ref={img}
        src={src}
        alt="The frame as recorded"
        draggable={false}
        style={{ width: '100%', display: 'block' }}
      />
      {taken.map((t, i) => (
        <div
          key={`${t.x} ${t.y}`}
          aria-hidden
          style={{
            position: 'absolute',
            left: `${100 * t.x}%`,
            top: `${100 * t.y}%`,
            transform: 'translate(-50%, -130%)',
            pointerEvents: 'none',
            background: '#000000c0',
            borderRadius: 8,
            padding: '0 5px',
          }}
        >
          <Txt size="sm" ink="text-white">
            {i + 1}
          </Txt>
        </div>
      ))}
      {under ? (
        <div
          data-testid="loupe"
          aria-hidden
          style={{
            position: 'absolute',
            top: 8,
            ...(under.x < 0.5 ? { right: 8 } : { left: 8 }),
            width: LOUPE,
            height: LOUPE,
            borderRadius: 8,
            border: '2px solid #ffffff',
            overflow: 'hidden',
            pointerEvents: 'none',
            backgroundColor: '#000000',
            backgroundImage: `url("${src}")`,
            backgroundRepeat: 'no-repeat',
            backgroundSize: `${ZOOM * under.width}px ${ZOOM * under.height}px`,
            backgroundPosition: `${LOUPE / 2 - ZOOM * under.x * under.width}px ${LOUPE / 2 - ZOOM * under.y * under.height}px`,
          }}
        >
          <div
            style={{
              position: 'absolute',
              left: '50%',
              top: '50%',
              width: 2 * RADIUS * ZOOM * under.width,
              height: 2 * RADIUS * ZOOM * under.width,
              transform: 'translate(-50%, -50%)',
              outline: '2px solid #ffffff',
              border: '1px solid #000000',
              boxSizing: 'border-box',
            }}
          />
          <div
            style={{
              ...{ position: 'absolute', bottom: 0, left: 0, right: 0, background: '#000000c0' },
              ...{ display: 'flex', justifyContent: 'center' },
            }}
          >
            <Txt size="sm" ink="text-white">
              {percent(under.code)}
            </Txt>
          </div>
        </div>
      ) : null}
    </div>
  );
}
