import { useState } from 'react';
import { View } from 'react-native';
import type { NumberSpec } from '@inkavo/core/steps';
import { api } from '../../api/client';
import { Ruler } from '../../instruments/Ruler';
import { Button } from '../../ui/Button';
import { Choice } from '../../ui/Choice';
import { Trouble } from '../../ui/Note';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';
import { saveFile } from '../../ui/saveFile';
import { Download } from '../../ui/icons';
import { keptFirst } from './keptFirst';

const FORMS = [
  { value: 'png', title: 'PNG, 16 bit' },
  { value: 'tiff', title: 'TIFF, 16 bit' },
  { value: 'jpg', title: 'JPEG' },
] as const;
type Form = (typeof FORMS)[number]['value'];
const QUALITY: NumberSpec = {
  ...{ key: 'quality', label: 'Quality (higher is finer)', unit: 'whole' },
  ...{ min: 50, max: 100, neutral: 92, step: 1 },
};

/** Saves the current frame, at the size of the file, as a picture. */
export function StillSheet({
  clip,
  frame,
  onClose,
}: {
  clip: { id: string; name: string; facts: { width: number; height: number } };
  frame: number;
  onClose(): void;
}) {
  const [form, setForm] = useState<Form>('png');
  const [quality, setQuality] = useState(QUALITY.neutral);
  const [state, setState] = useState<{ busy: boolean; trouble?: string }>({ busy: false });
  const save = async (): Promise<void> => {
    setState({ busy: true });
    try {
      await keptFirst([clip.id]);
      const picture = await api.still(clip.id, frame, form, Math.round(quality));
      saveFile(picture, `${clip.name.replace(/\.[a-z0-9]{2,4}$/i, '')}, frame ${frame}.${form}`);
      onClose();
    } catch (error) {
      setState({ busy: false, trouble: (error as Error).message });
    }
  };
  return (
    <Sheet title={`Frame ${frame} as a picture`} onClose={onClose}>
      <Choice label="Form" value={form} options={FORMS} onChange={setForm} />
      {form === 'jpg' ? (
        <Ruler spec={QUALITY} value={quality} onChange={setQuality} onSettle={() => undefined} />
      ) : null}
      <View className="rounded bg-surface p-3">
        <Txt size="sm" quiet>
          {clip.facts.width}×{clip.facts.height}, through all steps, as an export would show it.
        </Txt>
      </View>
      {state.trouble ? <Trouble text={state.trouble} /> : null}
      <Button
        title={state.busy ? 'Making it …' : 'Save'}
        icon={Download}
        look="strong"
        disabled={state.busy}
        onPress={() => void save()}
      />
    </Sheet>
  );
}
