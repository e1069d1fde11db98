import { AtkinsonHyperlegibleNext_400Regular } from '@expo-google-fonts/atkinson-hyperlegible-next/400Regular';
import { AtkinsonHyperlegibleNext_700Bold } from '@expo-google-fonts/atkinson-hyperlegible-next/700Bold';

/** The typeface, shipped with the application. */
export const FONTS = {
  Hyperlegible: AtkinsonHyperlegibleNext_400Regular,
  HyperlegibleBold: AtkinsonHyperlegibleNext_700Bold,
};
