import { useLocalSearchParams } from 'expo-router';
import { Bench } from '../../src/screens/bench/Bench';

export default function Route() {
  const { id } = useLocalSearchParams<{ id: string }>();
  return <Bench clipId={id} />;
}
