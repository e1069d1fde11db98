import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { View } from 'react-native';
import { deliverySchema, type Delivery } from '@inkavo/core/model/delivery';
import { sentenceOf } from '@inkavo/core/model/sentence';
import { api } from '../../api/client';
import { Txt } from '../../ui/Txt';
import { bytesText } from '../outing/bringing';
import { clock } from './clock';

/** Delay after a change before the size is estimated again. */
const SETTLED_MS = 500;

function useSettled<T>(value: T): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), SETTLED_MS);
    return () => clearTimeout(timer);
  }, [value]);
  return settled;
}

/** Expected outcome: name, picture size, duration, and bytes, estimated from some frames. */
export function ExpectedLine({
  clipId,
  delivery,
  of,
  files,
}: {
  clipId: string;
  delivery: Delivery;
  /** Clips delivered together, the first of which this is. */
  of: number;
  /** Number of resulting files. */
  files: number;
}) {
  const settled = useSettled(delivery);
  const valid = deliverySchema.safeParse(settled);
  const { data, error, isFetching } = useQuery({
    queryKey: ['expected', clipId, settled, of],
    queryFn: ({ signal }) => api.expected(clipId, settled, of, signal),
    enabled: valid.success,
    placeholderData: keepPreviousData,
    staleTime: 60_000,
    retry: false,
  });
  const measuring = isFetching || settled !== delivery;
  const trouble = valid.success ? error?.message : sentenceOf(valid.error.issues[0]);
  return (
    <View role="status" aria-label="What comes out" className="gap-1 rounded bg-surface p-3">
      {trouble ? <Txt>{trouble}</Txt> : null}
      {!trouble && data ? (
        <>
          <Txt bold numberOfLines={1}>
            {data.name}
          </Txt>
          <Txt size="sm" quiet>
            {data.width}×{data.height} · {clock(data.seconds)} ·{' '}
            {measuring ? 'measuring the size …' : `about ${bytesText(data.bytes)}`}
            {files > 1 ? `, and ${files - 1} more` : ''}
          </Txt>
        </>
      ) : null}
      {!trouble && !data ? (
        <Txt size="sm" quiet>
          Measuring the size …
        </Txt>
      ) : null}
    </View>
  );
}
