import { nanoid } from 'nanoid/non-secure';
import { KEY_HEADER } from '@inkavo/core/model/idempotency';
import { problemSchema, type Problem, type ProblemCode } from '@inkavo/core/model/problem';
import { letOut } from '../state/admission';
import { connectionSignal, reachable, useConnection } from '../state/connection';
import { dropMessage, tell } from '../state/messages';

/** A failed request; `message` is for the user. Status 0: the server is unreachable. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    message: string,
    /** The server's problem response, if there was one. */
    readonly problem?: Problem,
  ) {
    super(message);
  }
  get code(): ProblemCode | undefined {
    return this.problem?.code;
  }
}

/** Whether a request failed for want of an answer, and may succeed when repeated. */
export const isUnanswered = (error: unknown): boolean => error instanceof ApiError && error.status === 0;

export const unreachable = (): ApiError =>
  new ApiError(0, 'The server cannot be reached. What was kept is safe; this works again when it is back.');

/** Aborts when any of some signals does; older browsers without `AbortSignal.any` follow the first only. */
const anyOf = (signals: AbortSignal[]): AbortSignal =>
  signals.length > 1 && 'any' in AbortSignal ? AbortSignal.any(signals) : signals[0];

/** Awaits a response or its body, which may break off in the middle; `own`: the caller's signal. */
export async function received<T>(coming: Promise<T>, own?: AbortSignal | null): Promise<T> {
  try {
    return await coming;
  } catch (error) {
    if (error instanceof SyntaxError || (own?.aborted && (error as Error).name === 'AbortError')) throw error;
    throw unreachable();
  }
}

/**
 * Time limits in milliseconds for the beginning of a response, one for each attempt: a connection can die alone and
 * unnoticed, while the event stream's lives. The first is far above the 99th percentile of answers beside an export,
 * 0.15 s; they grow, since a frame far from a keyframe of a large file can take longer than that on a slow machine.
 */
export const PATIENCE_MS = [20_000, 60_000, 180_000];

const isRepeatable = (init?: RequestInit): boolean =>
  init?.method === undefined || new Headers(init.headers).has(KEY_HEADER);

/** Sends a request; one that may be repeated is repeated when it gets no answer in time. */
async function answerTo(path: string, init?: RequestInit): Promise<Response> {
  const limits = isRepeatable(init) ? PATIENCE_MS : [undefined];
  for (const [attempt, ms] of limits.entries()) {
    const late = new AbortController();
    const timer = ms === undefined ? undefined : setTimeout(() => late.abort(), ms);
    const signal = anyOf([...(init?.signal ? [init.signal] : []), connectionSignal(), late.signal]);
    try {
      return await received(fetch(`/api${path}`, { ...init, signal }), init?.signal);
    } catch (error) {
      if (!late.signal.aborted || attempt === limits.length - 1) throw error;
    } finally {
      clearTimeout(timer);
    }
  }
  throw unreachable();
}

export async function ask(path: string, init?: RequestInit): Promise<Response> {
  const res = await answerTo(path, init);
  if (res.ok) return res;
  const problem = problemSchema.safeParse(await res.json().catch(() => undefined)).data;
  if (problem?.code === 'not-let-in') {
    letOut();
    // An unpaired device treats the server as unreachable: changes stay queued, and are sent once it is paired.
    throw new ApiError(0, problem.detail, problem);
  }
  throw new ApiError(res.status, problem?.detail ?? `The server answered ${res.status}.`, problem);
}

export const get = async <T>(path: string): Promise<T> => received((await ask(path)).json() as Promise<T>);
export const blob = async (path: string, init?: RequestInit): Promise<Blob> => received((await ask(path, init)).blob());

/** How long a request that was lost on the way waits for the connection: what is tapped for should not happen late. */
const WAIT_MS = 30_000;
/** Pause before a request is repeated whose own connection broke off. */
const AGAIN_MS = 500;
const TOLD_AFTER_MS = 2000;

/**
 * Repeats a request that is lost on the way, with a message if that takes a moment, until it is answered, or for {@link
 * WAIT_MS}. Without a connection in the first place it fails at once: the user should know.
 */
async function repeated<T>(request: () => Promise<T>): Promise<T> {
  const message = { key: `lost ${nanoid(6)}`, text: 'The server does not answer. Trying again …' };
  const until = Date.now() + WAIT_MS;
  let telling: ReturnType<typeof setTimeout> | undefined;
  try {
    for (;;) {
      const { online } = useConnection.getState();
      try {
        return await request();
      } catch (error) {
        const lost = isUnanswered(error) && !(error as ApiError).problem;
        if (!lost || (!online && !telling)) throw error;
        telling ??= setTimeout(() => tell(message), TOLD_AFTER_MS);
        await new Promise((done) => setTimeout(done, AGAIN_MS));
        if (!(await reachable(until - Date.now()))) throw error;
      }
    }
  } finally {
    clearTimeout(telling);
    dropMessage(message.key);
  }
}

interface SendOptions extends RequestInit {
  /** It is sent once, and may be lost: its caller repeats it. */
  once?: boolean;
}

/** Sends a request that changes something. */
export const send = async <T>(
  method: string,
  path: string,
  body?: unknown,
  { once, ...init }: SendOptions = {},
): Promise<T> => {
  const headers = { 'Content-Type': 'application/json', ...(once ? {} : { [KEY_HEADER]: nanoid() }), ...init.headers };
  const content = body === undefined ? {} : { body: JSON.stringify(body) };
  const request = async (): Promise<T> => {
    const res = await ask(path, { ...content, ...init, method, headers });
    return (res.status === 204 ? undefined : await received(res.json(), init.signal)) as T;
  };
  return once ? request() : repeated(request);
};

/**
 * Sends a request and reads the response line by line: progress as `done` and `of`, or `best`, a first result, then the
 * final one.
 */
export async function lines<T, Best = never>(
  path: string,
  body: unknown,
  {
    signal,
    onProgress,
    onBest,
  }: { signal?: AbortSignal; onProgress?: (share: number) => void; onBest?: (best: Best) => void } = {},
): Promise<T> {
  const res = await ask(path, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify(body),
    signal,
  });
  const reader = res.body!.pipeThrough(new TextDecoderStream()).getReader();
  let text = '';
  for (;;) {
    const { value, done } = await received(reader.read(), signal);
    text += value ?? '';
    const parts = text.split('\n');
    text = parts.pop() ?? '';
    for (const part of parts.filter(Boolean)) {
      const line = JSON.parse(part) as { error?: string; done?: number; of?: number; best?: Best };
      if (line.error) throw new ApiError(422, line.error);
      if (line.best) onBest?.(line.best);
      else if (line.done === undefined) return line as T;
      else onProgress?.(line.done / (line.of ?? 1));
    }
    if (done) throw unreachable();
  }
}
