import { useState } from 'react';
import { useEngine } from '../../engine/context';
import { Button } from '../../ui/Button';
import { Choice } from '../../ui/Choice';
import { Trouble } from '../../ui/Note';
import { Download } from '../../ui/icons';
import { saveFile } from '../../ui/saveFile';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';

const FORMATS = [
  { value: 'cube', title: '.cube' },
  { value: 'clf', title: 'CLF' },
  { value: 'cc', title: 'CDL' },
  { value: 'json', title: 'Grade' },
] as const;
type Format = (typeof FORMATS)[number]['value'];
const HELP: Record<Format, string> = {
  cube: 'A 3D table over code values 0 to 100 %. What lies beyond is held to the ends.',
  clf: 'The Common LUT Format: super-whites and sub-blacks are kept.',
  cc: 'Slope, offset, power and saturation. Steps that do not fit are left out, and named.',
  json: 'Every step with every number and its tables, to be read back here or by the command line.',
};
const SIZES = [
  { value: '17', title: '17³' },
  { value: '33', title: '33³' },
  { value: '65', title: '65³' },
] as const;

/** The grade of this clip as a file in an open format. */
export function SaveGradeSheet({ name, onClose }: { name: string; onClose(): void }) {
  const engine = useEngine();
  const [format, setFormat] = useState<Format>('cube');
  const [size, setSize] = useState<(typeof SIZES)[number]['value']>('33');
  const [note, setNote] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const save = async (): Promise<void> => {
    setBusy(true);
    try {
      const file = await engine.current!.gradeFile(format, Number(size), name);
      saveFile(new Blob([file.text], { type: 'application/octet-stream' }), file.fileName);
      setNote(file.lost.length ? `Not in this file: ${file.lost.join(', ')}.` : null);
      if (file.lost.length === 0) onClose();
    } catch (error) {
      setNote((error as Error).message);
    }
    setBusy(false);
  };
  return (
    <Sheet title="Save the grade as a file" onClose={onClose}>
      {note ? <Trouble text={note} /> : null}
      <Choice label="Format" value={format} options={FORMATS} onChange={setFormat} />
      <Txt quiet>{HELP[format]}</Txt>
      {format === 'cube' || format === 'clf' ? (
        <Choice label="Nodes an edge" value={size} options={SIZES} onChange={setSize} />
      ) : null}
      <Button
        title={busy ? 'Making it …' : 'Save'}
        icon={Download}
        look="strong"
        disabled={busy}
        onPress={() => void save()}
      />
    </Sheet>
  );
}
