import { create } from 'zustand';
import { createJSONStorage, persist } from 'zustand/middleware';
import { deliverySchema, type Delivery } from '@inkavo/core/model/delivery';

const DEFAULT = deliverySchema.parse({ codec: 'h264' });

/** Settings of the last export on this device: the defaults for the next one. */
export const useDelivery = create<{ delivery: Delivery; set(part: Partial<Delivery>): void }>()(
  persist(
    (set) => ({
      delivery: DEFAULT,
      set: (part) => set(({ delivery }) => ({ delivery: { ...delivery, ...part } })),
    }),
    {
      name: 'inkavo-delivery',
      storage: createJSONStorage(() => localStorage),
      partialize: ({ delivery }) => ({ delivery }),
      // May have been written by an older version, or another program.
      merge: (kept, now) => {
        const parsed = deliverySchema.safeParse((kept as { delivery?: unknown } | undefined)?.delivery);
        return { ...now, delivery: parsed.success ? parsed.data : now.delivery };
      },
    },
  ),
);
