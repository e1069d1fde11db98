import { Pressable, View } from 'react-native';
import { Histogram } from '../../instruments/Histogram';
import { Pad } from '../../instruments/Pad';
import { Waveform } from '../../instruments/Waveform';
import { useBench, type ScopeView } from '../../state/bench';
import { Choice } from '../../ui/Choice';
import { Txt } from '../../ui/Txt';

const TITLES: Record<ScopeView, string> = {
  luma: 'Luma',
  parade: 'Red, green, blue',
  pad: 'Pad',
  histogram: 'Histogram',
};
const ORDER: readonly ScopeView[] = ['luma', 'parade', 'pad', 'histogram'];

/** The scope below the picture, as wide as it: one of four views, swiped or chosen. */
export function ScopeArea({ width, height, wide }: { width: number; height: number; wide: boolean }) {
  const chosen = useBench((s) => s.scopeView);
  // On a wide screen the pad has its own place.
  const order = wide ? ORDER.filter((v) => v !== 'pad') : ORDER;
  const view = order.includes(chosen) ? chosen : 'luma';
  const go = (by: 1 | -1): void =>
    useBench.getState().set({ scopeView: order[(order.indexOf(view) + by + order.length) % order.length] });
  return (
    <View style={{ width, height }} className="overflow-hidden bg-scope">
      {view === 'pad' ? <Pad size={height} /> : null}
      {view === 'histogram' ? <Histogram width={width} height={height} /> : null}
      {view === 'luma' || view === 'parade' ? (
        <Waveform view={view} width={width} height={height} onSwipe={go} />
      ) : null}
      {wide ? null : (
        <Pressable
          role="button"
          aria-label={`${TITLES[view]}: show the next view`}
          onPress={() => go(1)}
          className={`absolute top-0 h-[44px] justify-start pt-[3px] ${view === 'pad' ? 'bottom-0 right-1 top-auto h-[30px]' : 'left-[72px] px-2'}`}
        >
          <View className="flex-row items-center gap-[4px] rounded border border-[#8c8c8c] bg-scope px-2">
            <Txt size="sm" ink="text-scope-ink">
              {TITLES[view].toLowerCase()}
            </Txt>
            {order.map((v) => (
              <View
                key={v}
                className="h-[6px] w-[6px] rounded-full"
                style={{ backgroundColor: v === view ? '#ffffff' : '#6c6c6c' }}
              />
            ))}
          </View>
        </Pressable>
      )}
    </View>
  );
}

/** Selects the view below the picture (wide screen). */
export function ScopeChoice() {
  const chosen = useBench((s) => s.scopeView);
  const options = ORDER.filter((v) => v !== 'pad').map((value) => ({
    value,
    title: value === 'parade' ? 'R G B' : TITLES[value],
    label: TITLES[value],
  }));
  return (
    <Choice
      label="Trace under the picture"
      value={chosen === 'pad' ? 'luma' : chosen}
      options={options}
      onChange={(scopeView) => useBench.getState().set({ scopeView })}
    />
  );
}
