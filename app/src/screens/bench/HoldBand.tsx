import type { HoldKind } from '@inkavo/core/reading/holdMeasures';
import type { HoldTrouble } from '@inkavo/core/reading/holdCheck';
import { useBench } from '../../state/bench';
import type { StripSpan } from '../../state/bench/place';

/** Losses in the file and by the grade have the same patterns as on the picture; drift is plain. */
const STRIPES = 'repeating-linear-gradient(135deg, #fff 0 4px, #000 4px 8px)';
const CHECKS = 'repeating-conic-gradient(#fff 0 25%, #000 0 50%) 0 0 / 8px 8px';
const PATTERN: Record<HoldKind, string> = {
  file: STRIPES,
  grade: CHECKS,
  pressed: 'repeating-linear-gradient(0deg, #fff 0 2px, #000 2px 4px)',
  black: '#000',
  white: '#fff',
  level: '#b4b4b4',
  cast: 'linear-gradient(90deg, #e0442c, #2c62e0)',
  chroma: 'linear-gradient(90deg, #e0442c, #3fae49, #2c62e0)',
};
const ROW = 8;

/** The trouble within this many frames of a position; of several, the first. */
export const troubleAt = (troubles: readonly HoldTrouble[], frame: number, reach: number): HoldTrouble | undefined =>
  troubles.find((t) => frame >= t.fromFrame - reach && frame <= t.toFrame + reach);

/** Where the graded clip does not hold, above the scrub strip: one row per kind of trouble. */
export function HoldBand({ strip: { first, last }, reach }: { strip: StripSpan; reach: number }) {
  const hold = useBench((s) => s.hold);
  const stale = useBench((s) => s.hold !== null && s.hold.lists !== s.lists);
  if (!hold || hold.report.troubles.length === 0) return null;
  const kinds = [...new Set(hold.report.troubles.map((t) => t.kind))];
  return (
    <div
      data-testid="hold-band"
      aria-hidden
      style={{ position: 'absolute', left: 0, right: 0, bottom: 0, opacity: stale ? 0.4 : 1, pointerEvents: 'none' }}
    >
      {kinds.map((kind) => (
        <div key={kind} style={{ position: 'relative', height: ROW, background: '#00000080', marginTop: 1 }}>
          {hold.report.troubles
            .filter((t) => t.kind === kind)
            .map((t) => {
              const [from, to] = [Math.max(first, t.fromFrame - reach / 2), Math.min(last, t.toFrame + reach / 2)];
              if (to <= from) return null;
              return (
                <div
                  key={t.fromFrame}
                  style={{
                    position: 'absolute',
                    top: 0,
                    bottom: 0,
                    left: `${((from - first) / (last - first)) * 100}%`,
                    width: `${((to - from) / (last - first)) * 100}%`,
                    background: PATTERN[kind],
                    outline: '1px solid #000',
                  }}
                />
              );
            })}
        </div>
      ))}
    </div>
  );
}
