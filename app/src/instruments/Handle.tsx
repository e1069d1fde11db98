import type { Part } from './waveformParts';
import { TRACE_HIGH, TRACE_LOW } from '@inkavo/core/scopes/trace';
import { Txt } from '../ui/Txt';
import { MarkIcon } from './marks';

interface Props {
  part: Part;
  held: boolean;
  left: number;
  top: number;
  width: number;
  height: number;
  /** The side that touches the trace. */
  side: 'left' | 'right';
  onKey(e: { key: string; shiftKey: boolean; preventDefault(): void }): void;
}

/**
 * A handle beside a trace. Pointers are handled by the trace underneath; this draws the handle and handles the
 * keyboard.
 */
export function Handle({ part, held, left, top, width, height, side, onKey }: Props) {
  const percent = part.level * 100;
  const edge = `3px solid ${held ? '#d7f75b' : '#ffffff'}`;
  return (
    <div
      role="slider"
      tabIndex={0}
      aria-orientation="vertical"
      aria-label={`${part.label} on the waveform`}
      aria-valuenow={Number(percent.toFixed(1))}
      aria-valuemin={TRACE_LOW * 100}
      aria-valuemax={TRACE_HIGH * 100}
      aria-valuetext={`${percent.toFixed(1)} %`}
      onKeyDown={onKey}
      style={{
        position: 'absolute',
        left,
        top,
        width,
        height,
        background: held ? '#d7f75b' : '#2c2c2cd9',
        borderLeft: side === 'left' ? edge : undefined,
        borderRight: side === 'right' ? edge : undefined,
        boxSizing: 'border-box',
        display: 'flex',
        alignItems: 'center',
        justifyContent: 'center',
      }}
    >
      {part.mark ? (
        <MarkIcon mark={part.mark} colour={held ? '#141414' : '#ffffff'} size={Math.min(16, width - 12)} />
      ) : (
        <Txt size="sm" bold ink={held ? 'text-on-accent' : 'text-scope-ink'}>
          {part.text}
        </Txt>
      )}
    </div>
  );
}
