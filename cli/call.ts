import { existsSync, statSync } from 'node:fs';
import { FormatError } from '@inkavo/core/formats/error';
import { fps, type MediaFacts } from '@inkavo/core/model/facts';
import { MediaError, probe } from '@inkavo/media/codec';
import type { Source } from '@inkavo/media/frames/rest';

/** Invalid arguments. Exit status 2. */
export class CallError extends Error {}

/** Output of a command: lines of text, and the same as data for --json. */
export interface Answer {
  lines: string[];
  data: unknown;
}

export interface Command {
  usage: string;
  /** Names of options with a value, besides --json. */
  options: readonly string[];
  /** Takes no file arguments. */
  withoutFile?: boolean;
  /** Takes one or more files. */
  withFiles?: boolean;
  /** An option that replaces the file arguments. */
  insteadOfFiles?: string;
  /** `files`: all file arguments; `file`: the first. */
  run(file: string, options: Record<string, string | undefined>, files: string[]): Promise<Answer>;
}

/** Opens a video file. Throws a {@link CallError} if it does not exist, a MediaError if it is not a video. */
export async function openSource(path: string): Promise<Source> {
  if (!existsSync(path) || !statSync(path).isFile()) throw new CallError(`There is no file "${path}".`);
  return { path, ...(await probe(path)) };
}

export function needed(options: Record<string, string | undefined>, name: string): string {
  const value = options[name];
  if (!value) throw new CallError(`--${name} is needed.`);
  return value;
}

/** An integer option within limits. */
export function wholeNumber(text: string | undefined, name: string, min: number, max: number): number | undefined {
  if (text === undefined) return undefined;
  const value = Number(text);
  if (!Number.isInteger(value) || value < min || value > max)
    throw new CallError(`--${name} is a whole number from ${min} to ${max}.`);
  return value;
}

/** A frame given as a number ("90") or as seconds ("3.5s"). */
export function frameAt(text: string, facts: MediaFacts): number {
  const match = /^(\d+(?:\.\d+)?)(s?)$/.exec(text);
  if (!match) throw new CallError('--at is a frame ("90") or a time in seconds ("3.5s").');
  const frame = match[2] ? Math.floor(Number(match[1]) * fps(facts) + 1e-6) : Number(match[1]);
  if (!Number.isInteger(frame) || frame >= facts.frames)
    throw new CallError(`--at must lie in the clip: its last frame is ${facts.frames - 1}.`);
  return frame;
}

/** Exit status for an error: 2 for invalid arguments, 1 for failed work. */
export const statusOf = (error: unknown): number => (error instanceof CallError ? 2 : 1);
export const sentenceOf = (error: unknown): string =>
  error instanceof CallError || error instanceof MediaError || error instanceof FormatError
    ? error.message
    : `Something went wrong that was not foreseen: ${String(error)}`;

/** A number option within limits. */
export function numberFrom(text: string | undefined, name: string, min: number, max: number): number | undefined {
  if (text === undefined) return undefined;
  const value = Number(text);
  if (!Number.isFinite(value) || value < min || value > max)
    throw new CallError(`--${name} is a number from ${min} to ${max}.`);
  return value;
}

/** Refuses to overwrite a file. */
export function mustBeFree(output: string): void {
  if (existsSync(output)) throw new CallError(`"${output}" is there already. It was left alone.`);
}

/** Shows progress on a terminal. */
export function showShare(share: number): void {
  if (process.stderr.isTTY) process.stderr.write(`\r${Math.round(100 * share)} %`);
}
