import { Text, View } from 'react-native';
import { bt709 } from '@inkavo/core/colour/transfer';
import { useEffect, useState } from 'react';
export default function Home() {
  const [s, setS] = useState('');
  useEffect(() => {
    const w = new Worker(new URL('../src/engine/worker.ts', window.location.href));
    w.onmessage = (e) => setS(String(e.data));
    w.postMessage(0.18);
  }, []);
  return <View className="flex-1 bg-black" onPointerDown={() => setS('down')}><Text className="text-white">hi {bt709.encode(0.18)} {s}</Text></View>;
}
