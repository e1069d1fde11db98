import { parseArgs } from 'node:util';
import { CallError, sentenceOf, statusOf, type Command } from './call';
import { check } from './commands/check';
import { firstPass } from './commands/firstPass';
import { frame } from './commands/frame';
import { grade } from './commands/grade';
import { lut } from './commands/lut';
import { read } from './commands/read';

const COMMANDS: Record<string, Command> = {
  read,
  grade,
  frame,
  lut,
  'first-pass': firstPass,
  check,
};
const SHORT: Record<string, string> = { output: 'o' };

const usage = (): string =>
  [
    'Usage:',
    ...Object.values(COMMANDS).map((c) => `  inkavo ${c.usage} [--json]`),
    '',
    'Exit status: 0 done, 1 the work failed, 2 a bad call.',
  ].join('\n');

async function main(args: string[]): Promise<void> {
  const [name, ...rest] = args;
  if (!name || name === 'help' || name === '--help') {
    console.log(usage());
    return;
  }
  const command = COMMANDS[name];
  if (!command) throw new CallError(`There is no command "${name}".\n${usage()}`);
  const { file, options, json } = parse(command, rest);
  const answer = await command.run(file, options);
  console.log(json ? JSON.stringify(answer.data) : answer.lines.join('\n'));
}

function parse(
  command: Command,
  args: string[],
): { file: string; options: Record<string, string | undefined>; json: boolean } {
  const known = Object.fromEntries(
    command.options.map((o) => [o, { type: 'string' as const, ...(SHORT[o] ? { short: SHORT[o] } : {}) }]),
  );
  try {
    const { values, positionals } = parseArgs({
      args,
      options: { ...known, json: { type: 'boolean' } },
      allowPositionals: true,
    });
    if (positionals.length !== (command.withoutFile ? 0 : 1)) {
      throw new CallError(`${command.withoutFile ? 'No' : 'One'} file is needed: inkavo ${command.usage}`);
    }
    const { json, ...options } = values as Record<string, string | undefined> & { json?: boolean };
    return { file: positionals[0] ?? '', options: options as Record<string, string | undefined>, json: Boolean(json) };
  } catch (error) {
    if (error instanceof CallError) throw error;
    throw new CallError(`${(error as Error).message}\nUsage: inkavo ${command.usage}`);
  }
}

main(process.argv.slice(2)).catch((error: unknown) => {
  console.error(sentenceOf(error));
  process.exitCode = statusOf(error);
});
