import { useState } from 'react';
import type { GradeFile, GradeFileRequest, GradeFormat } from '@inkavo/core/formats/gradeFile';
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
] as const satisfies readonly { value: GradeFormat; title: string }[];
const HELP: Record<GradeFormat, string> = {
  cube: 'A 3D table over code values 0 to 100 %. What lies beyond is clamped to the ends.',
  clf: 'The Common LUT Format: super-whites and sub-blacks are kept.',
  cc: 'Slope, offset, power and saturation. Steps that do not fit are left out, and named.',
  json: 'Every step with every number and its tables, to be read back here or by the command line.',
};
const SIZES = [
  { value: '17', title: '17³' },
  { value: '33', title: '33³' },
  { value: '65', title: '65³' },
] as const;

const unfit = ({ lost }: GradeFile): string =>
  `${lost.join(' and ')} ${lost.length > 1 ? 'depend' : 'depends'} on the place in the picture or ${lost.length > 1 ? 'change' : 'changes'} over the clip, which a table cannot hold.`;

/** Saves steps in an open format. `make` writes the file; if a table cannot hold them all, the rest is offered. */
export function GradeFileSheet({
  title,
  name,
  make,
  onClose,
}: {
  title: string;
  name: string;
  make(request: GradeFileRequest): Promise<GradeFile>;
  onClose(): void;
}) {
  const [format, setFormat] = useState<GradeFormat>('cube');
  const [size, setSize] = useState<(typeof SIZES)[number]['value']>('33');
  const [state, setState] = useState<{ busy?: boolean; trouble?: string; saved?: string; offered?: GradeFile }>({});
  const isTable = format === 'cube' || format === 'clf';
  const put = (file: GradeFile): void => {
    saveFile(new Blob([file.text], { type: 'application/octet-stream' }), file.fileName);
    if (file.lost.length === 0) onClose();
    else setState({ saved: `${file.fileName} was saved. Not in it: ${file.lost.join(', ')}.` });
  };
  const save = async (): Promise<void> => {
    setState({ busy: true });
    try {
      const file = await make({ format, size: Number(size), name, partly: true });
      // Omissions of a CDL are announced in advance; those of a table are unexpected.
      if (isTable && file.lost.length > 0) setState({ offered: file });
      else put(file);
    } catch (error) {
      setState({ trouble: (error as Error).message });
    }
  };
  const choose = (next: GradeFormat): void => {
    setFormat(next);
    setState({});
  };
  const chooseSize = (next: typeof size): void => {
    setSize(next);
    setState({});
  };
  return (
    <Sheet title={title} onClose={onClose}>
      {state.trouble ? <Trouble text={state.trouble} /> : null}
      {state.offered ? <Trouble text={unfit(state.offered)} /> : null}
      {state.saved ? <Txt role="status">{state.saved}</Txt> : null}
      <Choice label="Format" value={format} options={FORMATS} onChange={choose} />
      <Txt quiet>{HELP[format]}</Txt>
      {isTable ? <Choice label="Nodes an edge" value={size} options={SIZES} onChange={chooseSize} /> : null}
      {state.offered ? (
        <Button title="Save what fits" icon={Download} look="strong" onPress={() => put(state.offered!)} />
      ) : (
        <Button
          title={state.busy ? 'Making it …' : 'Save'}
          icon={Download}
          look="strong"
          disabled={state.busy}
          onPress={() => void save()}
        />
      )}
    </Sheet>
  );
}
