import { usePathname, useRouter } from 'expo-router';
import { View } from 'react-native';
import { Button } from '../ui/Button';
import { Empty } from '../ui/Note';
import { TopBar } from '../ui/TopBar';

/** Shown for unknown addresses, with a way on. */
export function NotFound() {
  const router = useRouter();
  const path = usePathname();
  return (
    <View role="main" className="flex-1 bg-ground">
      <TopBar title="Nothing here" back="last" />
      <Empty
        title="There is no page at this address"
        text={`${path} leads nowhere. Your clips and edits are as they were.`}
      >
        <Button title="Go to the outings" look="strong" onPress={() => router.replace('/')} />
      </Empty>
    </View>
  );
}
