import { useVirtualizer } from '@tanstack/react-virtual';
import { useRef, type ReactNode } from 'react';
import { View } from 'react-native';

/** Rows rendered beyond the window. */
const AHEAD = 4;

/** A row of a long list: its estimated height in pixels, and its content. */
export interface VirtualRow {
  key: string;
  height: number;
  draw(): ReactNode;
}

/** Scroll position of each list, restored when returning. */
const scrolled = new Map<string, number>();

/** A virtualised scrolling column. `children` follow the rows. `name`: key of the scroll position. */
export function VirtualRows({
  name,
  rows,
  gap,
  children,
}: {
  name: string;
  rows: readonly VirtualRow[];
  gap: number;
  children?: ReactNode;
}) {
  const scroller = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- its values go into no memoised component
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: (i) => rows[i].height,
    getItemKey: (i) => rows[i].key,
    overscan: AHEAD,
    gap,
    initialOffset: () => scrolled.get(name) ?? 0,
  });
  return (
    <div
      ref={scroller}
      onScroll={(e) => scrolled.set(name, e.currentTarget.scrollTop)}
      style={{ flex: 1, minHeight: 0, overflowY: 'auto' }}
    >
      <View className="mx-auto w-full max-w-[860px] p-3">
        <div style={{ position: 'relative', height: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map(({ key, index, start }) => (
            <div
              key={key}
              ref={virtual.measureElement}
              data-index={index}
              style={{ position: 'absolute', left: 0, right: 0, top: start }}
            >
              {rows[index].draw()}
            </div>
          ))}
        </div>
        {children}
      </View>
    </div>
  );
}
