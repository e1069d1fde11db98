import { hasNoEffect } from '@inkavo/core/model/grade';
import { useState } from 'react';
import type { ListedClip } from '@inkavo/core/model/outing';
import { joined } from '@inkavo/core/model/lists';
import { stepKind } from '@inkavo/core/steps';
import { thumbUrl } from '../../api/client';
import { useBench } from '../../state/bench';
import { useClipboard } from '../../state/clipboard';
import { pasteInto } from '../../state/pasteInto';
import { ownedSteps, withRegions } from '../../state/stepLists';
import { Button } from '../../ui/Button';
import { CheckRow } from '../../ui/Checkbox';
import { Choice } from '../../ui/Choice';
import { ClipboardPaste, Copy, CopyCheck, Library } from '../../ui/icons';
import { Sheet } from '../../ui/Sheet';
import { Thumb } from '../../ui/Thumb';
import { Txt } from '../../ui/Txt';
import { copySteps, followingLog, pasteCopied, stepsText } from './copying';
import { KeepRecipe } from './KeepRecipe';
import { OtherClips, useOtherClips } from './OtherClips';

const WHOSE = { camera: 'of the camera', clip: '', outing: 'of the outing' } as const;
const PICTURE = { width: 80, height: 45, objectFit: 'cover', display: 'block' } as const;

/** Copies steps of this clip, for pasting elsewhere or directly into other clips of the outing. */
export function CopySheet({ onClose }: { onClose(): void }) {
  const steps = ownedSteps(useBench((s) => s.lists));
  const copied = useClipboard((s) => s.steps);
  const [left, setLeft] = useState<ReadonlySet<string>>(
    () => new Set(steps.filter((o) => hasNoEffect(o.step)).map((o) => o.step.id)),
  );
  const [next, setNext] = useState<'clips' | 'recipe' | null>(null);
  const chosen = steps.filter((o) => !left.has(o.step.id)).map((o) => o.step);
  if (next === 'clips') return <WhichClips steps={chosen} onClose={onClose} />;
  if (next === 'recipe') return <KeepRecipe steps={chosen} onClose={onClose} />;
  return (
    <Sheet title="Copy and paste steps" onClose={onClose}>
      {copied.length ? (
        <Button
          title={`Paste: ${stepsText(copied)}`}
          icon={ClipboardPaste}
          onPress={() => {
            pasteCopied();
            onClose();
          }}
        />
      ) : null}
      {steps.map(({ step, owner }) => {
        const kind = stepKind(step.kind);
        const title = step.label ?? kind.title;
        return (
          <CheckRow
            key={step.id}
            label={title}
            on={!left.has(step.id)}
            onChange={(on) => setLeft(new Set(on ? [...left].filter((id) => id !== step.id) : [...left, step.id]))}
          >
            <Txt className="min-w-0 flex-1" numberOfLines={1}>
              {title} <Txt quiet>{WHOSE[owner]}</Txt>
            </Txt>
            {hasNoEffect(step) ? <Txt quiet>neutral</Txt> : null}
          </CheckRow>
        );
      })}
      <Button
        title={chosen.length ? `Copy ${stepsText(chosen)}` : 'Copy'}
        icon={Copy}
        look="strong"
        disabled={chosen.length === 0}
        onPress={() => {
          copySteps(chosen);
          onClose();
        }}
      />
      <Button
        title="To these clips …"
        icon={CopyCheck}
        disabled={chosen.length === 0}
        onPress={() => setNext('clips')}
      />
      <Button
        title="Keep as a recipe …"
        icon={Library}
        disabled={chosen.length === 0}
        onPress={() => setNext('recipe')}
      />
    </Sheet>
  );
}

function WhichClips({ steps, onClose }: { steps: ReturnType<typeof ownedSteps>[number]['step'][]; onClose(): void }) {
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [busy, setBusy] = useState(false);
  const [how, setHow] = useState<'replace' | 'add'>('replace');
  const others = useOtherClips();
  const wanted = others.filter((c) => chosen.has(c.id));
  const toggle = (clip: ListedClip, on: boolean): void =>
    setChosen(new Set(on ? [...chosen, clip.id] : [...chosen].filter((c) => c !== clip.id)));
  const put = async (): Promise<void> => {
    setBusy(true);
    const copies = withRegions(steps, joined(useBench.getState().lists));
    if (await pasteInto(wanted, copies, { how, following: followingLog(steps) })) onClose();
    else setBusy(false);
  };
  return (
    <Sheet title={`${stepsText(steps)} to these clips`} onClose={onClose}>
      <OtherClips
        row={(clip) => (
          <CheckRow key={clip.id} label={clip.name} on={chosen.has(clip.id)} onChange={(on) => toggle(clip, on)}>
            <Thumb src={thumbUrl(clip, true)} style={PICTURE} />
            <Txt numberOfLines={1} className="min-w-0 flex-1">
              {clip.name}
            </Txt>
          </CheckRow>
        )}
      />
      {others.length ? (
        <Button
          title={wanted.length ? `Put into ${wanted.length} clip${wanted.length === 1 ? '' : 's'}` : 'None is chosen'}
          look="strong"
          disabled={wanted.length === 0 || busy}
          onPress={() => void put()}
        />
      ) : null}
      {others.length ? (
        <>
          <Choice
            label="How they are put in"
            value={how}
            options={[
              { value: 'replace', title: 'In place of their kind' },
              { value: 'add', title: 'Added' },
            ]}
            onChange={setHow}
          />
          <Txt size="sm" quiet>
            {how === 'replace'
              ? 'Each takes the place of the clip’s step of its kind, or is added where there is none.'
              : 'Each is added beside the steps that are there.'}
          </Txt>
        </>
      ) : null}
    </Sheet>
  );
}
