import './noEval';
import { loadAsync } from 'expo-font';
import { followServer } from './api/events';
import { fetchAhead, queries } from './api/queries';
import { changedElsewhere } from './state/changedElsewhere';
import { tellFailedRequests } from './state/failedRequests';
import { FONTS } from './theme/fonts';
import { showRemembered } from './theme/mode';
import { watchBack } from './ui/backCloses';

// Before the first render and before the router is loaded.
showRemembered();
watchBack();
tellFailedRequests();

/*
 * Starts work that waits on others before the code of the screens is evaluated: the typeface, the event stream, and the
 * first screen's data. The layout waits for the typeface, and continues without it on failure.
 */
void loadAsync(FONTS).catch(() => undefined);
followServer(queries, changedElsewhere, () => fetchAhead(window.location.pathname));
