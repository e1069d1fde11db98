import '../global.css';
import { QueryClientProvider } from '@tanstack/react-query';
import { useFonts } from 'expo-font';
import { Slot } from 'expo-router';
import { useEffect, useReducer } from 'react';
import { queries } from '../src/api/queries';
import { QuestionSheet } from '../src/screens/QuestionSheet';
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
  // With a screen in the very first drawing the router loses Back and Forward, however soon the fonts are there.
  if (!begun || (!loaded && !failed)) return null;
  return (
    <QueryClientProvider client={queries}>
      <Connected />
    </QueryClientProvider>
  );
}

function Connected() {
  useTrail();
  useEffect(() => keepTrying(() => outbox.run()), []);
  useEffect(() => keepTrying(flushClips), []);
  return (
    <>
      <Slot />
      <QuestionSheet />
      <Messages />
    </>
  );
}
