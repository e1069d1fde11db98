import { useEffect } from 'react';
import { View } from 'react-native';
import { useBench } from '../../state/bench';
import type { StepLists } from '@inkavo/core/model/lists';
import { Button } from '../../ui/Button';
import { Eye } from '../../ui/icons';

/**
 * Previews an offer on the bench while mounted. `what` is offered, null for nothing; equal values are the same offer.
 * `apply` makes the lists with it, and must be a stable function. `without`: lists without it.
 */
export function useOffer<T>(what: T | null, apply: (lists: StepLists, what: T) => StepLists, without: boolean): void {
  const lists = useBench((s) => s.lists);
  const text = JSON.stringify(what);
  useEffect(() => {
    const offered = JSON.parse(text) as T | null;
    useBench.getState().offerLists(offered === null ? null : apply(lists, offered), without);
  }, [lists, text, apply, without]);
  useEffect(() => () => useBench.getState().offerLists(null), []);
}

interface FooterProps {
  without: boolean;
  onWithout(without: boolean): void;
  /** Label of the button that takes the offer. */
  title: string;
  /** Nothing can be taken now. */
  disabled?: boolean;
  onTake(): void;
}

/** Footer of an offer: shows the picture without it, and takes it. */
export function OfferFooter({ without, onWithout, title, disabled = false, onTake }: FooterProps) {
  return (
    <View className="flex-row gap-2">
      <Button
        title="Before"
        icon={Eye}
        aria-pressed={without}
        style={without ? { backgroundColor: 'var(--raised)', borderColor: 'var(--ink)' } : undefined}
        disabled={disabled}
        onPress={() => onWithout(!without)}
      />
      <Button look="strong" className="flex-1" title={title} disabled={disabled} onPress={onTake} />
    </View>
  );
}
