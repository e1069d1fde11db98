import '../global.css';
import { QueryClientProvider } from '@tanstack/react-query';
import { useFonts } from 'expo-font';
import { Slot, usePathname } from 'expo-router';
import { useEffect, useReducer } from 'react';
import { View } from 'react-native';
import { queries } from '../src/api/queries';
import { JOIN_PATH, JoinScreen } from '../src/screens/JoinScreen';
import { QuestionSheet } from '../src/screens/QuestionSheet';
import { useAdmission } from '../src/state/admission';
import { flushClips } from '../src/state/clipKeeper';
import { keepTrying } from '../src/state/keepTrying';
import { outbox } from '../src/state/outbox';
import { FONTS } from '../src/theme/fonts';
import { Messages } from '../src/ui/Messages';
import { useTrail } from '../src/ui/trail';

export { Broken as ErrorBoundary } from '../src/screens/Broken';

export default function Layout() {
  const [loaded, failed] = useFonts(FONTS);
  const [begun, begin] = useReducer(() => true, false);
  useEffect(begin, [begin]);
  // If the first render contained a screen, the router would lose Back and Forward, however soon the fonts load.
  if (!begun || (!loaded && !failed)) return null;
  return (
    <QueryClientProvider client={queries}>
      <Connected />
    </QueryClientProvider>
  );
}

const HIDDEN = { display: 'none' } as const;

function Connected() {
  useTrail();
  useEffect(() => keepTrying(() => outbox.run()), []);
  useEffect(() => keepTrying(flushClips), []);
  const joining = usePathname() === JOIN_PATH;
  const known = useAdmission((s) => s.letIn);
  const letIn = known && !joining;
  return (
    <>
      {/* The screen stays mounted but hidden: otherwise the router would lose the page's address. */}
      <View className="flex-1" style={letIn ? undefined : HIDDEN}>
        <Slot />
      </View>
      {letIn ? null : <JoinScreen />}
      <QuestionSheet />
      <Messages />
    </>
  );
}
