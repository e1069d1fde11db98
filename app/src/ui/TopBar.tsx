import type { Href } from 'expo-router';
import { useEffect, type ReactNode } from 'react';
import { useWindowDimensions, View } from 'react-native';
import { IconButton } from './Button';
import { Txt } from './Txt';
import { ChevronLeft } from './icons';
import { useGoBack } from './trail';

/**
 * The bar at the top of a screen; also sets the tab's title. `back` leads to the parent screen or, with "last", to the
 * previous one.
 */
export function TopBar({
  title,
  note,
  back,
  backLabel = 'Back',
  children,
}: {
  title: string;
  note?: string;
  back?: Href | 'last';
  backLabel?: string;
  children?: ReactNode;
}) {
  const goBack = useGoBack();
  // A narrow screen needs the room for the title.
  const wide = useWindowDimensions().width >= 600;
  useEffect(() => {
    document.title = `${title} · Inkavo`;
  }, [title]);
  const leave = (): void => (back === 'last' ? goBack(null, '/') : goBack(back!, '/'));
  return (
    <View
      className={`h-[48px] flex-row items-center border-b-stroke border-line bg-ground pr-1 ${back ? 'pl-1' : 'pl-4'}`}
    >
      {back ? <IconButton label={backLabel} icon={ChevronLeft} onPress={leave} /> : null}
      <View className="min-w-0 flex-1 flex-row items-baseline gap-2 pr-2">
        <Txt bold numberOfLines={1} role="heading" aria-level={1} className="shrink">
          {title}
        </Txt>
        {note && wide ? (
          <Txt size="sm" quiet numberOfLines={1} className="shrink-[3]">
            {note}
          </Txt>
        ) : null}
      </View>
      {children}
    </View>
  );
}
