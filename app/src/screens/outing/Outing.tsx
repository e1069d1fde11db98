import { useQuery } from '@tanstack/react-query';
import { useCallback, useMemo, useRef, useState } from 'react';
import { useWindowDimensions, View } from 'react-native';
import type { Camera, ListedClip } from '@inkavo/core/model/outing';
import { useArrangement } from '../../state/arrangement';
import { tellTrouble } from '../../state/messages';
import { useBackCloses } from '../../ui/backCloses';
import { Button, IconButton } from '../../ui/Button';
import { Empty, Loading, Trouble } from '../../ui/Note';
import { TopBar } from '../../ui/TopBar';
import { Txt } from '../../ui/Txt';
import { UndoButtons } from '../../ui/UndoButtons';
import { ExportSheet } from '../export/ExportSheet';
import { FilmSheet } from '../export/FilmSheet';
import { OutingOut } from '../export/OutingOut';
import { dayText } from '../day';
import { between, filtered } from './arrange';
import { BringIn, type Chosen } from './BringIn';
import { CameraSheet } from './CameraSheet';
import { ClipGrid } from './ClipGrid';
import { ClipSheet } from './ClipSheet';
import { FirstPassMany, FirstPassStrip } from './FirstPassMany';
import { HoldMany, HoldStrip } from './HoldMany';
import { Intake } from './Intake';
import { Looking } from './Looking';
import { ManySheet } from './ManySheet';
import { OutingSheet } from './OutingSheet';
import { useDrop } from './useDrop';
import { usePluggedIn } from './usePluggedIn';
import { outingQuery } from '../../api/queries';
import { CheckCheck, EllipsisVertical, FolderInput, SquareCheckBig, X } from '../../ui/icons';

/** Minimum width for text on the bar's buttons. */
const WITH_WORDS = 600;

/** Minimum width of a tile, gap between tiles, and maximum width of a row, in pixels. */
const TILE = { large: 280, small: 150 };
const GAP = 12;
const WIDEST = 1240;
/** Number of clips from which search and filters are shown. */
const LOOKED_FOR_FROM = 7;

type Open =
  | 'bring'
  | 'export'
  | 'film'
  | 'out'
  | 'many'
  | 'firstPass'
  | 'hold'
  | 'outing'
  | { camera: Camera }
  | { clip: ListedClip }
  | { from: string }
  | null;

/** An outing: its clips by camera. */
export function OutingScreen({ id }: { id: string }) {
  const { data, error } = useQuery(outingQuery(id));
  const [open, setOpen] = useState<Open>(null);
  const [chosen, setChosen] = useState<ReadonlySet<string> | null>(null);
  const { width } = useWindowDimensions();
  const stop = (): void => setChosen(null);
  useBackCloses(chosen !== null, stop, false);
  const close = (): void => setOpen(null);
  const cameras = data?.cameras ?? [];
  const arrangement = useArrangement();
  const { search, state, by } = arrangement;
  const shown = useMemo(() => {
    const found = filtered(data?.clips ?? [], data?.cameras ?? [], { search, state });
    // A range follows the displayed order.
    return by === 'order' ? found : (data?.cameras ?? []).flatMap((c) => found.filter((f) => f.cameraId === c.id));
  }, [data, search, state, by]);
  const last = useRef<string | null>(null);
  const toggle = useCallback(
    (clip: ListedClip, range: boolean): void => {
      setChosen((old) => {
        const next = new Set(old);
        if (range && last.current) for (const one of between(shown, last.current, clip.id)) next.add(one);
        else if (!next.delete(clip.id)) next.add(clip.id);
        return next;
      });
      last.current = clip.id;
    },
    [shown],
  );
  const [files, setFiles] = useState<Chosen>({ clips: [], others: 0 });
  const over = useDrop((clips, others) => {
    if (clips.length === 0) return tellTrouble('drop', 'None of what was dropped is a clip. Nothing was brought in.');
    setFiles({ clips, others });
    setOpen('bring');
  });
  usePluggedIn((from) => setOpen({ from }));
  const many = data?.clips.filter((c) => chosen?.has(c.id)) ?? [];
  // In the order of the outing, however they are sorted here.
  const inFilm = many.length ? many : (data?.clips ?? []);
  const empty = data !== undefined && data.clips.length === 0;
  const columns = Math.max(1, Math.floor((Math.min(WIDEST, width) - 2 * GAP + GAP) / (TILE[arrangement.tiles] + GAP)));
  const name = data?.outing.name ?? 'Outing';

  return (
    <View role="main" className="flex-1 bg-ground">
      <TopBar
        title={chosen ? `${chosen.size} chosen` : name}
        note={data && !chosen ? [dayText(data.outing.date), data.outing.place].filter(Boolean).join(' · ') : undefined}
        back={chosen ? undefined : '/'}
        backLabel="All outings"
      >
        {chosen ? (
          <>
            <Button
              title="With them …"
              look="strong"
              disabled={chosen.size === 0}
              onPress={() => setOpen('many')}
              className="mr-1"
            />
            <IconButton
              label="Choose all that are shown"
              icon={CheckCheck}
              onPress={() => setChosen(new Set(shown.map((c) => c.id)))}
            />
            <IconButton label="Stop choosing" icon={X} onPress={stop} />
          </>
        ) : (
          <>
            <UndoButtons place={id} />
            {data?.clips.length ? (
              <IconButton label="Choose several clips" icon={SquareCheckBig} onPress={() => setChosen(new Set())} />
            ) : null}
            {width < WITH_WORDS ? (
              <IconButton label="Bring in" icon={FolderInput} onPress={() => setOpen('bring')} />
            ) : (
              <Button title="Bring in" icon={FolderInput} onPress={() => setOpen('bring')} />
            )}
            {data ? (
              <IconButton
                label="This outing: name, day, remove"
                icon={EllipsisVertical}
                onPress={() => setOpen('outing')}
              />
            ) : null}
          </>
        )}
      </TopBar>
      {data && data.clips.length > 0 ? (
        <ClipGrid
          outingId={id}
          cameras={cameras}
          clips={shown}
          arrangement={arrangement}
          columns={columns}
          width={width}
          chosen={chosen}
          onToggle={toggle}
          onMore={setOpen}
        >
          {data.clips.length >= LOOKED_FOR_FROM ? <Looking clips={data.clips} found={shown.length} /> : null}
          {shown.length === 0 ? (
            <Txt quiet className="my-8 self-center">
              No clip fits.
            </Txt>
          ) : null}
        </ClipGrid>
      ) : (
        <View className="mx-auto w-full max-w-[1240px] flex-1 px-3">
          {error ? <Trouble text={error.message} /> : null}
          {empty && data.intake.length === 0 ? (
            <Empty
              title="No clips yet"
              text="Bring in clips from the memory card, or choose files on this device. The originals stay as they are."
            >
              <Button title="Bring in clips" icon={FolderInput} look="strong" onPress={() => setOpen('bring')} />
            </Empty>
          ) : null}
          {empty && data.intake.length > 0 ? (
            <Txt quiet className="my-8 self-center">
              The first clip is on its way in.
            </Txt>
          ) : null}
          {!data && !error ? <Loading what="the outing" /> : null}
        </View>
      )}
      {data ? <FirstPassStrip outingId={id} all={data.clips} onOpen={() => setOpen('firstPass')} /> : null}
      {data ? <HoldStrip outingId={id} all={data.clips} onOpen={() => setOpen('hold')} /> : null}
      {data ? <Intake outingId={id} jobs={data.intake} /> : null}
      {open === 'bring' || (open && typeof open === 'object' && 'from' in open) ? (
        <BringIn
          outingId={id}
          cameras={cameras}
          clips={data?.clips ?? []}
          dropped={files}
          from={open === 'bring' ? undefined : open.from}
          onClose={() => {
            setFiles({ clips: [], others: 0 });
            close();
          }}
        />
      ) : null}
      {over ? (
        <View className="pointer-events-none absolute inset-2 items-center justify-center rounded border-2 border-dashed border-accent bg-black/70">
          <Txt bold size="lg" ink="text-white">
            Let go to bring these clips in
          </Txt>
        </View>
      ) : null}
      {open === 'export' ? <ExportSheet clips={many} onClose={close} /> : null}
      {open === 'out' && data ? (
        <OutingOut outingId={id} clipIds={inFilm.map((c) => c.id)} onFilm={() => setOpen('film')} onClose={close} />
      ) : null}
      {open === 'film' && data ? <FilmSheet outingId={id} clips={inFilm} onClose={close} /> : null}
      {open === 'outing' && data ? (
        <OutingSheet outing={data.outing} clips={data.clips.length} onOut={() => setOpen('out')} onClose={close} />
      ) : null}
      {open === 'firstPass' && data ? (
        <FirstPassMany
          outingId={id}
          clips={[]}
          all={data.clips}
          cameras={cameras}
          onDone={() => {
            close();
            stop();
          }}
          onClose={close}
        />
      ) : null}
      {open === 'hold' && data ? <HoldMany outingId={id} clips={[]} all={data.clips} onClose={close} /> : null}
      {open === 'many' ? (
        <ManySheet
          outingId={id}
          clips={many}
          all={data?.clips ?? []}
          cameras={cameras}
          onExport={() => setOpen('export')}
          onOut={() => setOpen('out')}
          onDone={() => {
            close();
            stop();
          }}
          onClose={close}
        />
      ) : null}
      {open && typeof open === 'object' && 'camera' in open ? (
        <CameraSheet
          camera={open.camera}
          clips={data?.clips.filter((c) => c.cameraId === open.camera.id).length ?? 0}
          onClose={close}
        />
      ) : null}
      {open && typeof open === 'object' && 'clip' in open ? (
        <ClipSheet clip={open.clip} cameras={cameras} onClose={close} />
      ) : null}
    </View>
  );
}
