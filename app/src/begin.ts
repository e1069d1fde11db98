import './noEval';
import { loadAsync } from 'expo-font';
import { followServer } from './api/events';
import { fetchAhead, queries } from './api/queries';
import { changedElsewhere } from './state/changedElsewhere';
import { tellFailedRequests } from './state/failedRequests';
import { FONTS } from './theme/fonts';
import { showRemembered } from './theme/mode';
import { watchBack } from './ui/backCloses';

// Before anything is drawn, and before the router.
showRemembered();
watchBack();
tellFailedRequests();

/*
 * What takes its time elsewhere, begun before the code of the screens is evaluated: the typeface, the stream of events, and what
 * the first screen will ask for. The layout waits for the typeface, and goes without where it fails.
 */
void loadAsync(FONTS).catch(() => undefined);
followServer(queries, changedElsewhere, () => fetchAhead(window.location.pathname));
