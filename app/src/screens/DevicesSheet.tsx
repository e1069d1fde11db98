import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { ActivityIndicator, View } from 'react-native';
import Svg, { Path } from 'react-native-svg';
import { readableCode, type Device, type JoinCode, type SharingState } from '@inkavo/core/model/sharing';
import { api } from '../api/client';
import { Button, IconButton } from '../ui/Button';
import { CheckRow } from '../ui/Checkbox';
import { Choice } from '../ui/Choice';
import { Trouble } from '../ui/Note';
import { Sheet } from '../ui/Sheet';
import { Txt } from '../ui/Txt';
import { LogOut, X } from '../ui/icons';

/** Polling interval: networks may change while this is open, such as a new hotspot. */
const LOOK_MS = 4000;
/** The server renews a code before it expires; polling interval. */
const CODE_MS = 60_000;
const QR_SIZE = 224;
/** Devices seen within this many seconds count as present. */
const HERE_S = 60;

const timeText = (seconds: number): string =>
  new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit' }).format(seconds * 1000);
const whenText = (seconds: number): string =>
  new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'long', hour: '2-digit', minute: '2-digit' }).format(
    seconds * 1000,
  );

/** Work from a tablet or a phone: pairs other devices on the network and removes them. On such a device: to leave. */
export function DevicesSheet({ onClose }: { onClose(): void }) {
  const own = useQuery({ queryKey: ['device'], queryFn: api.device, staleTime: 0 });
  return (
    <Sheet title="Work from another device" onClose={onClose}>
      {own.error ? <Trouble text={own.error.message} /> : null}
      {own.data === undefined && !own.error ? <Waiting /> : null}
      {own.data ? <LetIn device={own.data} /> : null}
      {own.data === null ? <Sharing /> : null}
    </Sheet>
  );
}

const Waiting = () => <ActivityIndicator color="var(--ink)" accessibilityLabel="Asking the server" />;

/** For a paired device. */
function LetIn({ device }: { device: Device }) {
  const [trouble, setTrouble] = useState<string | null>(null);
  const leave = (): void =>
    void api.leave().then(
      () => window.location.replace('/'),
      (error: Error) => setTrouble(error.message),
    );
  return (
    <>
      <Txt>
        This device was let in as “{device.name}” on {whenText(device.joinedAt)}. Others are let in on the machine with
        the clips.
      </Txt>
      {trouble ? <Trouble text={trouble} /> : null}
      <Button title="Leave" icon={LogOut} onPress={leave} />
      <Txt size="sm" quiet>
        It then needs a new code to come in again.
      </Txt>
    </>
  );
}

/** For the server's own machine. */
function Sharing() {
  const client = useQueryClient();
  const { data, dataUpdatedAt, error } = useQuery({
    queryKey: ['sharing'],
    queryFn: api.sharing,
    staleTime: 0,
    refetchInterval: LOOK_MS,
  });
  const [trouble, setTrouble] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const work = async (call: Promise<unknown>): Promise<void> => {
    setBusy(true);
    try {
      await call;
      setTrouble(null);
    } catch (failure) {
      setTrouble((failure as Error).message);
    }
    await client.invalidateQueries({ queryKey: ['sharing'] });
    setBusy(false);
  };
  const set = (part: Parameters<typeof api.setSharing>[0]): void => void work(api.setSharing(part));
  if (!data) return error ? <Trouble text={error.message} /> : <Waiting />;
  if (data.unguarded)
    return (
      <Txt>
        This server was started so that every device that reaches its address comes in without a code (INKAVO_HOST).
        Open that address on the other device.
      </Txt>
    );
  return (
    <>
      {error || trouble ? <Trouble text={trouble ?? error!.message} /> : null}
      {data.on ? (
        <>
          <WayIn state={data} />
          <CheckRow label="Encrypted" on={data.encrypted} onChange={(encrypted) => set({ encrypted })}>
            <View className="min-w-0 flex-1 py-1">
              <Txt>Encrypted</Txt>
              <Txt size="sm" quiet>
                For networks that strangers use. The browser warns once, since nobody else vouches for this machine.
              </Txt>
            </View>
          </CheckRow>
          {data.fingerprint ? (
            <Txt size="sm" quiet>
              SHA-256 of the certificate, to compare with what the warning shows: {data.fingerprint}
            </Txt>
          ) : null}
        </>
      ) : (
        <Txt>
          Work on these clips from a tablet or a phone on the same network, also one without internet, such as a
          hotspot. Each device comes in with a code that is shown here; nobody else does.
        </Txt>
      )}
      <Button
        title={data.on ? 'Stop letting devices in' : 'Let other devices in'}
        look={data.on ? 'plain' : 'strong'}
        disabled={busy}
        onPress={() => set({ on: !data.on })}
      />
      <Devices devices={data.devices} now={dataUpdatedAt / 1000} onRemove={(id) => void work(api.removeDevice(id))} />
    </>
  );
}

/** The pairing code, and where it is entered. */
function WayIn({ state: { addresses, devices, trouble } }: { state: SharingState }) {
  const [network, setNetwork] = useState(0);
  const at = Math.min(network, addresses.length - 1);
  // A code is valid for one device: a new one is fetched after each pairing.
  const { data: code, error } = useQuery({
    queryKey: ['join-code', addresses.map((a) => a.url), devices.map((d) => d.id)],
    queryFn: api.joinCode,
    enabled: addresses.length > 0,
    staleTime: CODE_MS,
    gcTime: 0,
    refetchInterval: CODE_MS,
  });
  if (trouble) return <Trouble text={trouble} />;
  if (addresses.length === 0)
    return (
      <Txt>
        This machine is on no network. Join the tablet’s, or open a hotspot on either: the way in is shown here as soon
        as there is one.
      </Txt>
    );
  if (!code) return error ? <Trouble text={error.message} /> : <Waiting />;
  return (
    <>
      {addresses.length > 1 ? (
        <Choice
          label="Network"
          value={String(at)}
          options={addresses.map((a, i) => ({ value: String(i), title: a.network }))}
          onChange={(v) => setNetwork(Number(v))}
        />
      ) : null}
      <QrCode code={code} at={at} />
      <Txt>Point the other device’s camera at this. Or open this address on it, and type the code:</Txt>
      <View className="rounded border-stroke border-line bg-surface px-3 py-2">
        <Txt size="lg" bold selectable testID="join-address">
          {addresses[at].url}
        </Txt>
        <Txt size="xl" bold selectable testID="join-code" aria-label={`Code ${code.code.split('').join(' ')}`}>
          {readableCode(code.code)}
        </Txt>
        <Txt size="sm" quiet>
          For one device, until {timeText(code.until)}
        </Txt>
      </View>
    </>
  );
}

/** Dark on light in both modes, as scanners expect. */
function QrCode({ code, at }: { code: JoinCode; at: number }) {
  const link = code.links[at];
  if (!link) return null;
  const { size, path } = link.qr;
  return (
    <View role="img" aria-label="QR code of the link that lets a device in" className="self-center rounded bg-white">
      <Svg width={QR_SIZE} height={QR_SIZE} viewBox={`0 0 ${size} ${size}`}>
        <Path d={path} fill="#000000" />
      </Svg>
    </View>
  );
}

/** The paired devices. `now`: seconds since 1970. */
function Devices({ devices, now, onRemove }: { devices: readonly Device[]; now: number; onRemove(id: string): void }) {
  if (devices.length === 0) return null;
  return (
    <View className="gap-1">
      <Txt bold role="heading" aria-level={3}>
        Let in
      </Txt>
      {devices.map((d) => (
        <View key={d.id} className="min-h-[48px] flex-row items-center gap-2">
          <View className="min-w-0 flex-1">
            <Txt numberOfLines={1}>{d.name}</Txt>
            <Txt size="sm" quiet>
              {now - d.seenAt < HERE_S ? 'Here now' : `Last here ${whenText(d.seenAt)}`}
            </Txt>
          </View>
          <IconButton label={`Let ${d.name} out`} icon={X} onPress={() => onRemove(d.id)} />
        </View>
      ))}
    </View>
  );
}
