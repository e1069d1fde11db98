import type { ReactNode } from 'react';
import { Modal, Pressable, ScrollView, useWindowDimensions, View, type ViewStyle } from 'react-native';
import { useBackCloses } from './backCloses';
import { IconButton } from './Button';
import { useReturnFocus } from './returnFocus';
import { Txt } from './Txt';
import { X } from './icons';

/** What a sheet leaves visible and undimmed, and an action for holding it that replaces closing the sheet. */
export interface Beside {
  /** Height of the bar at the upper edge: its buttons are inactive, so it is dimmed. */
  bar: number;
  /** Its upper edge stays below this position in pixels. */
  top: number;
  /** It is on the right instead of centred, at most `most` pixels wide. */
  right: boolean;
  most?: number;
  onHold(held: boolean): void;
}

export interface SheetProps {
  title: string;
  onClose(): void;
  children: ReactNode;
  /** Stays visible below the scrolling content. */
  footer?: ReactNode;
  beside?: Beside;
}

/** A part of the screen beside a sheet, whose controls are inactive; a tap on it closes the sheet. */
function Dimmed({ style, onPress }: { style: ViewStyle; onPress(): void }) {
  return (
    <Pressable className="absolute inset-x-0 bg-black/60" style={style} onPress={onPress} aria-hidden tabIndex={-1} />
  );
}

/** A panel that slides up over the screen; closed by its button, Escape, Back or a tap beside it. */
export function Sheet({ title, onClose, children, footer, beside }: SheetProps) {
  useBackCloses(true, onClose);
  useReturnFocus();
  const { height } = useWindowDimensions();
  return (
    <Modal transparent visible animationType="none" onRequestClose={onClose} aria-label={title}>
      <View className="flex-1 justify-end">
        {beside ? (
          <>
            <Pressable
              className="absolute inset-0"
              onPressIn={() => beside.onHold(true)}
              onPressOut={() => beside.onHold(false)}
              aria-hidden
              tabIndex={-1}
            />
            <Dimmed style={{ top: 0, height: beside.bar }} onPress={onClose} />
            {beside.right ? null : <Dimmed style={{ top: beside.top, bottom: 0 }} onPress={onClose} />}
          </>
        ) : (
          <Dimmed style={{ top: 0, bottom: 0 }} onPress={onClose} />
        )}
        <View
          className={`w-full rounded-t-lg border-x-stroke border-t-stroke border-line bg-ground ${beside ? '' : 'max-h-[88%]'} ${beside?.right ? 'self-end' : 'max-w-[560px] self-center'}`}
          style={
            beside && {
              maxHeight: height - beside.top,
              minHeight: beside.right ? height - beside.top : undefined,
              maxWidth: beside.most,
            }
          }
        >
          <View className="flex-row items-center justify-between pl-4 pr-1 pt-1">
            <Txt size="lg" bold role="heading" aria-level={2}>
              {title}
            </Txt>
            <IconButton label="Close" icon={X} onPress={onClose} />
          </View>
          <ScrollView contentContainerClassName="gap-3 px-4 pb-5 pt-1">{children}</ScrollView>
          {footer ? <View className="border-t-stroke border-line px-4 py-3">{footer}</View> : null}
        </View>
      </View>
    </Modal>
  );
}
