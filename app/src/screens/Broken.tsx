import type { ErrorBoundaryProps } from 'expo-router';
import { View } from 'react-native';
import { queries } from '../api/queries';
import { Button } from '../ui/Button';
import { Empty } from '../ui/Note';
import { Txt } from '../ui/Txt';

/**
 * Shown instead of a screen that failed. Edits are stored on this device until the server has them, so none is lost.
 */
export function Broken({ error, retry }: ErrorBoundaryProps) {
  return (
    <View role="main" className="flex-1 bg-ground">
      <Empty
        title="This screen does not work"
        text="Something went wrong that was not foreseen. Every edit that was shown as kept is kept; those still under way lie on this device and are sent when a clip is opened again."
      >
        <Button
          title="Try again"
          look="strong"
          onPress={() => {
            // A cached response may have caused it.
            queries.clear();
            void retry();
          }}
        />
        <Button title="Go to the outings" onPress={() => window.location.assign('/')} />
        <Txt size="sm" quiet>
          {error.message}
        </Txt>
      </Empty>
    </View>
  );
}
