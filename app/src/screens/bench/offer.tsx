import { useEffect } from 'react';
import { View } from 'react-native';
import { useBench } from '../../state/bench';
import type { StepLists } from '@inkavo/core/model/lists';
import { Button } from '../../ui/Button';
import { Eye } from '../../ui/icons';

/**
 * Shows on the bench what an offer would do as long as this is mounted. `what` is offered, null for nothing; equal values are
 * the same offer. `apply` makes the lists with it, and is the same function at every call. `without`: how it is without it.
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
  /** What taking the offer is called. */
  title: string;
  /** There is nothing to take now. */
  disabled?: boolean;
  onTake(): void;
}

/** Below an offer: the picture without it, and taking it. */
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
