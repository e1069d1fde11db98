import { useLocalSearchParams } from 'expo-router';
import { OutingScreen } from '../../src/screens/outing/Outing';

export default function Route() {
  const { id } = useLocalSearchParams<{ id: string }>();
  return <OutingScreen key={id} id={id} />;
}
