import { useState, type ReactNode } from 'react';
import { Pressable, View } from 'react-native';
import type { Recording, DetectedCamera } from '@inkavo/core/model/source';
import { Button, IconButton } from '../../ui/Button';
import { CheckRow } from '../../ui/Checkbox';
import { Choice, ChoiceList } from '../../ui/Choice';
import { Field } from '../../ui/Field';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';
import { ChevronDown, FolderInput } from '../../ui/icons';
import { apart, bytesText, moved } from './bringing';
import { KINDS } from './cameraKinds';

/** A detected camera: its name, its kind, and its clips. */
export function DetectedCameraCard({
  picture,
  detected,
  at,
  known,
  others,
  left,
  here,
  onTake,
  onChange,
}: {
  picture(recording: Recording): ReactNode;
  detected: readonly DetectedCamera[];
  at: number;
  /** The outing has a camera of this name. */
  known: boolean;
  /** Names of other cameras that it may be identical to. */
  others: readonly string[];
  /** First paths of the excluded recordings. */
  left: ReadonlySet<string>;
  here(recording: Recording): boolean;
  onTake(recordings: readonly Recording[], on: boolean): void;
  onChange(detected: DetectedCamera[]): void;
}) {
  const [open, setOpen] = useState(false);
  const [moving, setMoving] = useState<Recording | null>(null);
  const camera = detected[at];
  const change = (part: Partial<DetectedCamera>): void =>
    onChange(detected.map((c, i) => (i === at ? { ...c, ...part } : c)));
  const taken = camera.recordings.filter((r) => !left.has(r.paths[0]));
  const bytes = taken.reduce((sum, r) => sum + r.bytes, 0);
  const [first] = taken.length ? taken : camera.recordings;
  const count = `${camera.recordings.length} clip${camera.recordings.length === 1 ? '' : 's'}`;
  const allHere = taken.length === 0 && camera.recordings.every(here);
  const torn = camera.recordings.filter((r) => r.problem).length;
  const many = [
    allHere ? `${count}, here already` : `${taken.length} of ${count} · ${bytesText(bytes)}`,
    torn > 0 ? `${torn} cannot be read` : '',
  ]
    .filter(Boolean)
    .join(' · ');
  return (
    <View
      role="group"
      aria-label={`Camera ${camera.name}`}
      className="gap-2 rounded border-stroke border-line bg-surface p-2"
    >
      <View className="flex-row gap-3">
        <View className="h-[76px] w-[112px] overflow-hidden rounded bg-surround">{picture(first)}</View>
        <View className="min-w-0 flex-1">
          <Field
            label={
              known
                ? 'Camera of this outing'
                : `New camera · ${KINDS.find((k) => k.value === camera.kind)!.title.toLowerCase()}`
            }
            aria-label={`Name of camera ${at + 1}`}
            value={camera.name}
            onChange={(name) => change({ name })}
          />
        </View>
      </View>
      <Pressable
        role="button"
        aria-expanded={open}
        aria-label={`${open ? 'Close' : 'Look through'} the clips of ${camera.name}`}
        onPress={() => setOpen(!open)}
        className="min-h-[44px] flex-row items-center justify-between gap-2"
      >
        <View className="min-w-0 flex-1">
          <Txt>{many}</Txt>
          <Txt size="sm" quiet numberOfLines={1}>
            {[camera.reason, first.format].filter(Boolean).join(' · ')}
          </Txt>
        </View>
        <View style={{ transform: [{ rotate: open ? '180deg' : '0deg' }] }}>
          <ChevronDown size={22} color="var(--ink)" aria-hidden />
        </View>
      </Pressable>
      {open ? (
        <>
          {known ? null : (
            <Choice label="Kind" compact value={camera.kind} options={KINDS} onChange={(kind) => change({ kind })} />
          )}
          {others.length ? (
            <View className="flex-row flex-wrap items-center gap-2">
              <Txt size="sm" quiet>
                The same as
              </Txt>
              {others.map((name) => (
                <Button key={name} title={name} onPress={() => change({ name })} />
              ))}
            </View>
          ) : null}
          {camera.recordings.length > 1 ? (
            <Button
              title={taken.length ? 'None of these' : 'All of these'}
              // Unreadable files can only be selected individually.
              onPress={() =>
                taken.length
                  ? onTake(taken, false)
                  : onTake(
                      camera.recordings.filter((r) => !r.problem),
                      true,
                    )
              }
            />
          ) : null}
          {camera.recordings.map((r) => (
            <RecordingRow
              key={r.paths[0]}
              recording={r}
              here={here(r)}
              on={!left.has(r.paths[0])}
              onTake={(on) => onTake([r], on)}
              onApart={() => onChange(apart(detected, r))}
              onMove={() => setMoving(r)}
            />
          ))}
        </>
      ) : null}
      {moving ? (
        <Sheet title={`Which camera is ${moving.name} from?`} onClose={() => setMoving(null)}>
          <ChoiceList
            label="Camera"
            value={String(at)}
            options={[
              ...detected.flatMap((c, i) => (c.recordings.length ? [{ value: String(i), title: c.name }] : [])),
              { value: String(detected.length), title: 'A new camera' },
            ]}
            onChange={(to) => {
              setMoving(null);
              onChange(moved(detected, moving, Number(to)));
            }}
          />
        </Sheet>
      ) : null}
    </View>
  );
}

function RecordingRow({
  recording,
  here,
  on,
  onTake,
  onApart,
  onMove,
}: {
  recording: Recording;
  here: boolean;
  on: boolean;
  onTake(on: boolean): void;
  onApart(): void;
  onMove(): void;
}) {
  const { name, paths, bytes, format, problem } = recording;
  const chapters = paths.length > 1 ? `${paths.length} chapters, joined` : '';
  return (
    <View className="flex-row items-center">
      <View className="min-w-0 flex-1">
        <CheckRow label={name} on={on} onChange={onTake}>
          <View className="min-w-0 flex-1 py-1">
            <Txt numberOfLines={1}>{name}</Txt>
            <Txt size="sm" quiet numberOfLines={problem ? 3 : 1}>
              {problem ?? [here ? 'here already' : '', chapters, format].filter(Boolean).join(' · ')}
            </Txt>
          </View>
          <Txt size="sm" quiet>
            {bytesText(bytes)}
          </Txt>
        </CheckRow>
        {chapters ? <Button title="They are no chapters: bring in each" look="bare" onPress={onApart} /> : null}
      </View>
      <IconButton label={`${name} is from another camera`} icon={FolderInput} onPress={onMove} />
    </View>
  );
}
