import type { ReactNode } from 'react';
import { ActivityIndicator, View } from 'react-native';
import { Txt } from './Txt';
import { TriangleAlert } from './icons';

/** A message about a failure, with actions. */
export function Trouble({ text, children }: { text: string; children?: ReactNode }) {
  return (
    <View
      role="alert"
      className="flex-row flex-wrap items-center gap-2 rounded border-stroke border-warn bg-surface px-3 py-2"
    >
      <TriangleAlert size={20} color="var(--warn)" aria-hidden />
      <Txt className="min-w-[200px] flex-1">{text}</Txt>
      {children}
    </View>
  );
}

/** Placeholder of a screen while its list is loading. */
export const Loading = ({ what }: { what: string }) => (
  <ActivityIndicator className="my-8" size="large" color="var(--ink)" accessibilityLabel={`Loading ${what}`} />
);

/** Text of an empty place: its purpose and the next action. */
export function Empty({ title, text, children }: { title: string; text: string; children?: ReactNode }) {
  return (
    <View className="mx-auto my-8 max-w-[440px] gap-3 px-4">
      <Txt size="lg" bold>
        {title}
      </Txt>
      <Txt quiet>{text}</Txt>
      <View className="mt-2 gap-3">{children}</View>
    </View>
  );
}
