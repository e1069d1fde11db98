import { spawn } from 'node:child_process';
import { createInterface } from 'node:readline';
import { basename, dirname } from 'node:path';
import { existsSync, rmSync } from 'node:fs';
import { MediaError } from '@inkavo/media/codec';

/** Niceness relative to the server: user actions take precedence. */
const NICE = ['nice', '-n', '10'];
/** The program ends with this one, however that happens (PR_SET_PDEATHSIG, see prctl(2)). */
const WITH_PARENT = existsSync('/usr/bin/setpriv') ? ['setpriv', '--pdeathsig', 'KILL'] : [];

/**
 * Renders a clip of the demo in a separate program. `path`: its destination, in a folder for its camera. Rejects with a
 * {@link MediaError}.
 */
export async function renderClip(
  renderer: string,
  path: string,
  { signal, progress }: { signal: AbortSignal; progress(share: number): void },
): Promise<void> {
  signal.throwIfAborted();
  const command = [...WITH_PARENT, ...NICE, process.execPath, renderer, basename(path), dirname(dirname(path))];
  const child = spawn(command[0], command.slice(1), { stdio: ['ignore', 'pipe', 'pipe'] });
  const stop = (): void => void child.kill('SIGKILL');
  signal.addEventListener('abort', stop);
  let said = '';
  child.stderr.on('data', (chunk: Buffer) => (said = (said + chunk.toString()).slice(-500)));
  createInterface({ input: child.stdout }).on('line', (line) => {
    const share = Number(line);
    if (share >= 0 && share <= 1) progress(share);
  });
  try {
    const code = await new Promise<number | null>((resolve, reject) => {
      child.on('close', resolve);
      child.on('error', reject);
    });
    if (code !== 0) throw new MediaError(`The demo clip could not be rendered. ${said.trim()}`.trim());
  } finally {
    signal.removeEventListener('abort', stop);
    // It is renamed when complete; leftovers with this name are not.
    rmSync(`${path}.part`, { force: true, recursive: true });
  }
}
