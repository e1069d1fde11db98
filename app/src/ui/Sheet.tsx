import type { ReactNode } from 'react';
import { Modal, Pressable, ScrollView, View } from 'react-native';
import { useBackCloses } from './backCloses';
import { IconButton } from './Button';
import { useReturnFocus } from './returnFocus';
import { Txt } from './Txt';
import { X } from './icons';

/** A panel that comes up from below over the screen; closes by its button, Escape, Back or a tap beside it. */
export function Sheet({ title, onClose, children }: { title: string; onClose: () => void; children: ReactNode }) {
  useBackCloses(true, onClose);
  useReturnFocus();
  return (
    <Modal transparent visible animationType="none" onRequestClose={onClose} aria-label={title}>
      <View className="flex-1 justify-end">
        <Pressable className="absolute inset-0 bg-black/60" onPress={onClose} aria-hidden tabIndex={-1} />
        <View className="max-h-[88%] w-full max-w-[560px] self-center rounded-t-lg border-x-stroke border-t-stroke border-line bg-ground">
          <View className="flex-row items-center justify-between pl-4 pr-1 pt-1">
            <Txt size="lg" bold role="heading" aria-level={2}>
              {title}
            </Txt>
            <IconButton label="Close" icon={X} onPress={onClose} />
          </View>
          <ScrollView contentContainerClassName="gap-3 px-4 pb-5 pt-1">{children}</ScrollView>
        </View>
      </View>
    </Modal>
  );
}
