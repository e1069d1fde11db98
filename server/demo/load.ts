import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { readShelfFile } from '@inkavo/core/formats/shelfFile';
import { cameraName } from '@inkavo/core/intake/detectCameras';
import type { Outing } from '@inkavo/core/model/outing';
import { DEMO_CLIPS, type DemoClip } from '@inkavo/demo/catalogue';
import type { Parts } from '../parts';
import type { NewJob, PayloadOf } from '../stores/newJob';
import { BEGINNINGS, DEMO_OUTING, DEMO_RECIPES, demoLuts } from './outing';

/** The demo outing's id, which stays when it is renamed. */
const DEMO_ID = 'demo';

type LoadParts = Pick<Parts, 'config' | 'outings' | 'shelf' | 'jobs' | 'runner'>;

/** The job that imports a clip of the demo: from the card if present, otherwise after rendering it. */
function jobFor({ folder, file }: DemoClip, outingId: string, card: string, renderer: string | undefined): NewJob[] {
  const from = join(card, 'DCIM', folder, file);
  const { steps, diveOffset } = BEGINNINGS[file] ?? {};
  const intake: PayloadOf<'import'> = {
    kind: 'import',
    outingId,
    from,
    move: false,
    name: file,
    camera: cameraName(folder),
    begin: {
      steps,
      dive: diveOffset === undefined ? undefined : { log: from.replace(/\.mp4$/, '.uddf'), offset: diveOffset },
    },
  };
  if (existsSync(from)) return [{ payload: intake, title: file, outingId }];
  return renderer ? [{ payload: { kind: 'render', intake }, title: file, outingId }] : [];
}

/**
 * The demo outing, created if missing. `load` imports its clips: those on the card at once, the others as they are
 * rendered.
 */
export async function openDemo(
  { config, outings, shelf, jobs, runner }: LoadParts,
  load: boolean,
): Promise<{ outing: Outing; isNew: boolean }> {
  // By id, since it may have been renamed; older libraries use another id.
  const known = (await outings.list()).find((o) => o.id === DEMO_ID || o.name === DEMO_OUTING.name);
  if (known) return { outing: await outings.get(known.id), isNew: false };
  const outing = await outings.create(DEMO_OUTING, DEMO_ID);
  // Small tables: starting a thread for them would take longer than reading them.
  for (const { name, text, ...where } of demoLuts()) await shelf.addRead(text, readShelfFile(text, name), where);
  for (const recipe of DEMO_RECIPES) await shelf.make(recipe);
  if (load) {
    await jobs.addAll(DEMO_CLIPS.flatMap((clip) => jobFor(clip, outing.id, config.card, config.renderer)));
    runner.wake();
  }
  return { outing, isNew: true };
}
