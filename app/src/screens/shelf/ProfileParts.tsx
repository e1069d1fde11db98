import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { Profile } from '@inkavo/core/model/profile';
import { signalToLinear } from '@inkavo/core/steps/convert/transfer';
import { api } from '../../api/client';
import { tell } from '../../state/messages';
import { usePreview } from './preview';
import type { ShelfUse } from './shelfUse';

const WIDTH = 640;
const PICTURE = {
  width: '100%',
  aspectRatio: '16 / 9',
  objectFit: 'cover',
  display: 'block',
  borderRadius: 4,
} as const;

/** The frame with the profile being edited. */
export function Seen({ use, profile }: { use: ShelfUse; profile: Profile }) {
  const item = { id: 'made', kind: 'profile', title: profile.name, group: '', note: '', profile } as const;
  const { data } = usePreview(use.on, use.put(item), WIDTH, true);
  return data ? <img src={data} alt="The frame with this profile" style={PICTURE} /> : <div style={PICTURE} />;
}

/**
 * Code values of black, grey and white for a curve, for comparison with the maker's table. Null if the curve is
 * invalid.
 */
export function places(profile: Profile): string | null {
  try {
    const decode = signalToLinear(profile.transfer);
    const codeOf = (light: number): number => {
      let [low, high] = [-0.2, 1.4];
      for (let i = 0; i < 40; i += 1) {
        const mid = (low + high) / 2;
        if (decode(mid) < light) low = mid;
        else high = mid;
      }
      return low;
    };
    const [black, grey, white] = [0, 0.18, 1].map((l) => `${(100 * codeOf(l)).toFixed(1)} %`);
    return `Black at ${black}, 18 % grey at ${grey}, white at ${white}.`;
  } catch {
    return null;
  }
}

/** Saves a profile on the shelf; returns an error, if any. */
export function useKeepProfile(onClose: () => void) {
  const client = useQueryClient();
  const [trouble, setTrouble] = useState<string | null>(null);
  const keep = async (made: { profile: Profile } | { problem: string }, group: string): Promise<void> => {
    if ('problem' in made) return setTrouble(made.problem);
    try {
      await api.putOnShelf({ kind: 'profile', profile: made.profile, group });
      void client.invalidateQueries({ queryKey: ['shelf'] });
      tell({ key: 'profile', text: `"${made.profile.name}" is on the shelf.`, fades: true });
      onClose();
    } catch (error) {
      setTrouble((error as Error).message);
    }
  };
  return { keep, trouble };
}
