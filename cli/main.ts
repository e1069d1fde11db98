import { parseArgs } from 'node:util';
import { CallError, sentenceOf, statusOf, type Command } from './call';

/** Commands with their modules, loaded on demand. */
const COMMANDS: Record<string, () => Promise<Command>> = {
  read: async () => (await import('./commands/read')).read,
  grade: async () => (await import('./commands/grade')).grade,
  frame: async () => (await import('./commands/frame')).frame,
  lut: async () => (await import('./commands/lut')).lut,
  export: async () => (await import('./commands/export')).exportFiles,
  film: async () => (await import('./commands/film')).film,
  timeline: async () => (await import('./commands/document')).timeline,
  report: async () => (await import('./commands/document')).report,
  'first-pass': async () => (await import('./commands/firstPass')).firstPass,
  match: async () => (await import('./commands/match')).match,
  check: async () => (await import('./commands/check')).check,
  share: async () => (await import('./commands/share')).share,
};
const SHORT: Record<string, string> = { output: 'o' };

async function usage(): Promise<string> {
  const commands = await Promise.all(Object.values(COMMANDS).map((load) => load()));
  return [
    'Usage:',
    ...commands.map((c) => `  inkavo ${c.usage} [--json]`),
    '',
    'Exit status: 0 done, 1 the work failed, 2 a bad call.',
  ].join('\n');
}

async function main(args: string[]): Promise<void> {
  const [name, ...rest] = args;
  if (!name || name === 'help' || name === '--help') {
    console.log(await usage());
    return;
  }
  if (!Object.hasOwn(COMMANDS, name)) throw new CallError(`There is no command "${name}".\n${await usage()}`);
  const command = await COMMANDS[name]();
  const { files, options, json } = parse(command, rest);
  const answer = await command.run(files[0] ?? '', options, files);
  console.log(json ? JSON.stringify(answer.data) : answer.lines.join('\n'));
}

function parse(
  command: Command,
  args: string[],
): { files: string[]; options: Record<string, string | undefined>; json: boolean } {
  const known = Object.fromEntries(
    command.options.map((o) => [o, { type: 'string' as const, ...(SHORT[o] ? { short: SHORT[o] } : {}) }]),
  );
  try {
    const { values, positionals } = parseArgs({
      args,
      options: { ...known, json: { type: 'boolean' } },
      allowPositionals: true,
    });
    const instead = command.insteadOfFiles !== undefined && Object.hasOwn(values, command.insteadOfFiles);
    if (instead && positionals.length > 0)
      throw new CallError(`Files, or --${command.insteadOfFiles}, not both: inkavo ${command.usage}`);
    const wanted = command.withoutFile ? 0 : 1;
    if (!instead && (command.withFiles ? positionals.length < 1 : positionals.length !== wanted)) {
      const many = command.withFiles ? 'At least one' : command.withoutFile ? 'No' : 'One';
      throw new CallError(`${many} file is needed: inkavo ${command.usage}`);
    }
    const { json, ...options } = values as Record<string, string | undefined> & { json?: boolean };
    return { files: positionals, options: options as Record<string, string | undefined>, json: Boolean(json) };
  } catch (error) {
    if (error instanceof CallError) throw error;
    throw new CallError(`${(error as Error).message}\nUsage: inkavo ${command.usage}`);
  }
}

main(process.argv.slice(2)).catch((error: unknown) => {
  console.error(sentenceOf(error));
  process.exitCode = statusOf(error);
});
