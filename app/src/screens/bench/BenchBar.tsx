import { useEffect, useState } from 'react';
import { Pressable, View } from 'react-native';
import { useStore } from 'zustand';
import { fps, type MediaFacts } from '@inkavo/core/model/facts';
import { joined } from '@inkavo/core/model/lists';
import type { Clip } from '@inkavo/core/model/outing';
import type { ClipOpened } from '../../api/client';
import { engine } from '../../engine/workers';
import { shownLists, useBench } from '../../state/bench';
import { flushClips, usePending } from '../../state/clipKeeper';
import { keeper, useKeep } from '../../state/keeper';
import { act } from '../../state/commands';
import { dropMessage, tell } from '../../state/messages';
import { Button, IconButton } from '../../ui/Button';
import { Sheet } from '../../ui/Sheet';
import { TopBar } from '../../ui/TopBar';
import { Txt } from '../../ui/Txt';
import { FileSheet } from '../FileSheet';
import { DrawingChoice, HandChoice, ModeChoice } from '../ModeChoice';
import { CompareSheet } from './Compare';
import { BenchShelf } from './BenchShelf';
import { ExportSheet } from '../export/ExportSheet';
import { GradeFileSheet } from '../export/GradeFileSheet';
import { StillSheet } from '../export/StillSheet';
import { KeptSheet } from './KeptSheet';
import { HoldSheet } from './HoldSheet';
import {
  Download,
  EllipsisVertical,
  Eye,
  FileVideo,
  ImagePlus,
  Images,
  Keyboard,
  Library,
  Redo2,
  RotateCcw,
  Share,
  Undo2,
} from '../../ui/icons';

/** State of saving, in a few words. */
function keepWords({ state, reason, onDevice }: ReturnType<typeof useKeep.getState>): string {
  if (state === 'kept') return 'kept';
  if (state === 'keeping') return onDevice ? 'keeping …' : 'not kept yet';
  if (state === 'waiting') return onDevice ? `on this device: ${reason}` : `not kept: ${reason}, device full`;
  return state === 'asked' ? 'changed elsewhere' : 'not kept: refused';
}

/** The words, and the action of a tap. */
function KeepState() {
  const steps = useKeep();
  const pending = usePending((s) => Object.keys(s.clips).length > 0);
  const failing = usePending((s) => s.failing);
  // In, out and dive log are saved along with the steps.
  const keep: typeof steps =
    steps.state === 'kept' && pending
      ? { ...steps, state: failing ? 'waiting' : 'keeping', reason: failing ? 'no server' : '' }
      : steps;
  const { state, reason } = keep;
  const calm = state === 'kept' || (state === 'keeping' && keep.onDevice);
  const act = (): void => {
    if (state === 'asked') keeper.ask();
    if (state === 'refused')
      tell({
        key: 'refused',
        text: `The server does not take the last edit: ${reason} Change it, undo it, or let it go.`,
        actions: [
          {
            title: 'Let it go',
            run() {
              dropMessage('refused');
              void keeper.drop();
            },
          },
          { title: 'Close', run: () => dropMessage('refused') },
        ],
      });
    if (state === 'waiting' || state === 'keeping') void Promise.all([keeper.flush(), flushClips()]);
  };
  useEffect(() => {
    if (state !== 'refused') dropMessage('refused');
  }, [state]);
  return (
    <Pressable
      role="button"
      onPress={act}
      disabled={calm}
      aria-label={`Steps: ${keepWords(keep)}`}
      className="min-h-[44px] max-w-[96px] justify-center px-1"
    >
      <View role="status">
        <Txt size="sm" quiet={calm} ink={calm ? undefined : 'text-warn'} numberOfLines={2} testID="keep-state">
          {keepWords(keep)}
        </Txt>
      </View>
    </Pressable>
  );
}

/** The bench's bar: back, name, state of saving, undo, redo, more. */
export function BenchBar({ opened, wide, onHelp }: { opened: ClipOpened; wide: boolean; onHelp(): void }) {
  const [sheet, setSheet] = useState<
    'more' | 'export' | 'compare' | 'save' | 'hold' | 'shelf' | 'file' | 'kept' | 'still' | null
  >(null);
  const history = useStore(useBench.temporal);
  const { clip, camera } = opened;
  return (
    <TopBar
      title={clip.name}
      note={wide ? `${camera.name} · ${factsLine(clip.facts)}` : undefined}
      back={`/outing/${clip.outingId}`}
      backLabel="Back to the outing"
    >
      <KeepState />
      <IconButton label="Undo" icon={Undo2} disabled={history.pastStates.length === 0} onPress={() => history.undo()} />
      <IconButton
        label="Redo"
        icon={Redo2}
        disabled={history.futureStates.length === 0}
        onPress={() => history.redo()}
      />
      <IconButton label="Compare and check" icon={Eye} onPress={() => setSheet('compare')} />
      {wide ? <Button title="Export" icon={Share} onPress={() => setSheet('export')} className="mx-1" /> : null}
      <IconButton label="More" icon={EllipsisVertical} onPress={() => setSheet('more')} />
      {sheet === 'more' ? (
        <MoreSheet
          opened={opened}
          onExport={() => setSheet('export')}
          onSave={() => setSheet('save')}
          onShelf={() => setSheet('shelf')}
          onFile={() => setSheet('file')}
          onStill={() => setSheet('still')}
          onHelp={() => {
            setSheet(null);
            onHelp();
          }}
          onClose={() => setSheet(null)}
        />
      ) : null}
      {sheet === 'still' ? <StillHere clip={clip} onClose={() => setSheet(null)} /> : null}
      {sheet === 'kept' ? <KeptSheet onClose={() => setSheet(null)} /> : null}
      {sheet === 'file' ? <FileSheet clip={clip} onClose={() => setSheet(null)} /> : null}
      {sheet === 'shelf' ? <BenchShelf onClose={() => setSheet(null)} /> : null}
      {sheet === 'save' ? (
        <GradeFileSheet
          title="Save the grade as a file"
          name={clip.name}
          make={(request) => engine().tables.gradeFile(joined(shownLists(useBench.getState())), request)}
          onClose={() => setSheet(null)}
        />
      ) : null}
      {sheet === 'compare' ? (
        <CompareSheet onHold={() => setSheet('hold')} onKept={() => setSheet('kept')} onClose={() => setSheet(null)} />
      ) : null}
      {sheet === 'hold' ? <HoldSheet onClose={() => setSheet(null)} /> : null}
      {sheet === 'export' ? <ExportSheet clips={[clip]} onClose={() => setSheet(null)} /> : null}
    </TopBar>
  );
}

/** The frame on the screen, as a picture. */
function StillHere({ clip, onClose }: { clip: Clip; onClose(): void }) {
  const frame = useBench((s) => s.frame);
  return <StillSheet clip={clip} frame={frame} onClose={onClose} />;
}

/** The file in a few words: size, bits, frame rate, codec. */
export const factsLine = (f: MediaFacts): string =>
  `${f.width}×${f.height} · ${f.depth} bit · ${Number(fps(f).toFixed(2))} fps · ${f.codec.toUpperCase()}`;

/** Makes the frame on the screen the clip's representative frame. */
async function standFor(clip: Clip): Promise<void> {
  const { frame, opened, set } = useBench.getState();
  const done = await act(
    {
      place: clip.outingId,
      what: `picture of ${clip.name}`,
      done: [{ on: 'clip', id: clip.id, patch: { referenceFrame: frame } }],
      undone: [
        { on: 'clip', id: clip.id, patch: { referenceFrame: opened?.clip.referenceFrame ?? clip.referenceFrame } },
      ],
    },
    'The clip is known by this frame now.',
  );
  if (done && opened?.clip.id === clip.id)
    set({ opened: { ...opened, clip: { ...opened.clip, referenceFrame: frame } } });
}

function MoreSheet({
  opened: { clip },
  onExport,
  onSave,
  onShelf,
  onFile,
  onStill,
  onHelp,
  onClose,
}: {
  opened: ClipOpened;
  onExport(): void;
  onSave(): void;
  onShelf(): void;
  onFile(): void;
  onStill(): void;
  onHelp(): void;
  onClose(): void;
}) {
  return (
    <Sheet title={clip.name} onClose={onClose}>
      <Button title="Export this clip" icon={Share} look="strong" onPress={onExport} />
      <Button title="Shelf: recipes, tables, profiles" icon={Library} onPress={onShelf} />
      <Button title="Save this frame as a picture" icon={Images} onPress={onStill} />
      <Button title="Save the grade as a file" icon={Download} onPress={onSave} />
      <Button
        title="Reset all steps of this clip"
        icon={RotateCcw}
        onPress={() => {
          useBench.getState().resetAll();
          onClose();
        }}
      />
      <Button
        title="This frame stands for the clip"
        icon={ImagePlus}
        onPress={() => {
          void standFor(clip);
          onClose();
        }}
      />
      <Button title="What this file is" icon={FileVideo} onPress={onFile} />
      <Button title="Help: fingers and keys" icon={Keyboard} onPress={onHelp} />
      <ModeChoice />
      <HandChoice />
      <DrawingChoice />
    </Sheet>
  );
}
