import { useRouter } from 'expo-router';
import { useEffect, useState } from 'react';
import { ScrollView, View } from 'react-native';
import { CODE_DIGITS } from '@inkavo/core/model/sharing';
import { api } from '../api/client';
import { Button } from '../ui/Button';
import { Field } from '../ui/Field';
import { Trouble } from '../ui/Note';
import { TopBar } from '../ui/TopBar';
import { Txt } from '../ui/Txt';

/** Path of links that contain a key. */
export const JOIN_PATH = '/join';

/** Default name of a device, from its browser's identification. */
function deviceName(agent: string, touch: boolean): string {
  if (/iPhone|Android.*Mobile/.test(agent)) return 'Phone';
  // Some tablets identify as desktop computers.
  if (/iPad|Android|Tablet/.test(agent) || (/Macintosh/.test(agent) && touch)) return 'Tablet';
  return 'Computer';
}

/** The key of a link. It is valid once, and is removed from the history along with the page that uses it. */
const keyFromLink = (): string => (window.location.pathname === JOIN_PATH ? window.location.hash.slice(1) : '');

/** Pairs a device with the server: with the code shown on the server's machine, or by a link. */
export function JoinScreen() {
  const router = useRouter();
  const [key, setKey] = useState(keyFromLink);
  const [code, setCode] = useState('');
  const [name, setName] = useState(() => deviceName(navigator.userAgent, navigator.maxTouchPoints > 1));
  const [trouble, setTrouble] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  useEffect(() => {
    // Already paired devices have nothing to do here.
    if (window.location.pathname === JOIN_PATH)
      api.device().then(
        () => router.replace('/'),
        () => undefined,
      );
  }, [router]);
  const ready = name.trim() !== '' && (key !== '' || code.replace(/\s/g, '').length === CODE_DIGITS);
  const join = async (): Promise<void> => {
    if (!ready || busy) return;
    setBusy(true);
    try {
      await api.join(key || code, name);
      // Reloading the page repeats all failed requests.
      window.location.replace(window.location.pathname === JOIN_PATH ? '/' : window.location.href);
    } catch (error) {
      setBusy(false);
      setKey('');
      setTrouble((error as Error).message);
    }
  };
  return (
    <View role="main" className="flex-1 bg-ground">
      <TopBar title="Come in" />
      <ScrollView contentContainerClassName="mx-auto w-full max-w-[440px] gap-4 p-4">
        <Txt>
          {key
            ? 'This link lets this device in, to work on the clips of the machine that showed it.'
            : 'This device needs a code. On the machine with the clips, “Work from another device”, below the outings, shows it.'}
        </Txt>
        {key ? null : (
          <Field
            label={`Code of ${CODE_DIGITS} digits`}
            value={code}
            onChange={setCode}
            inputMode="numeric"
            autoComplete="one-time-code"
            maxLength={CODE_DIGITS + 3}
            autoFocus
            onSubmitEditing={() => void join()}
          />
        )}
        <Field
          label="What this device is called there"
          value={name}
          onChange={setName}
          maxLength={60}
          onSubmitEditing={() => void join()}
        />
        {trouble ? <Trouble text={trouble} /> : null}
        <Button
          title={busy ? 'Coming in …' : 'Come in'}
          look="strong"
          disabled={!ready || busy}
          onPress={() => void join()}
        />
        <Txt size="sm" quiet>
          What was changed on this device and is not kept yet stays here, and is sent once it is in.
        </Txt>
      </ScrollView>
    </View>
  );
}
