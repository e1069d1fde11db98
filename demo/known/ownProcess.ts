import { spawn } from 'node:child_process';

/**
 * Runs a script of ours in a process of its own and gives what it prints; its errors are shown. Throws an Error when it ends
 * with anything but 0.
 */
export async function ownProcess(file: string, args: readonly string[]): Promise<string> {
  const child = spawn(process.execPath, ['--require', 'tsx/cjs', file, ...args], {
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  const chunks: Buffer[] = [];
  child.stdout.on('data', (c: Buffer) => chunks.push(c));
  const code = await new Promise((resolve) => child.on('close', resolve));
  if (code !== 0) throw new Error(`${file} ended with ${String(code)}.`);
  return Buffer.concat(chunks).toString();
}
