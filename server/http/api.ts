import { createHash } from 'node:crypto';
import { Router, type Request, type RequestHandler, type Response } from 'express';
import { z } from 'zod';
import { IDEMPOTENCY_KEY, KEY_HEADER } from '@inkavo/core/model/idempotency';
import { problemSchema } from '@inkavo/core/model/problem';
import { check, HttpError } from './problems';
import type { Repeats } from './repeats';

type Method = 'get' | 'post' | 'put' | 'patch' | 'delete';

/** A response that is not JSON: media type and description. */
interface Raw {
  type: string;
  holds: string;
}
type Answer = z.ZodType | Raw | null;
type Answers = Record<number, Answer>;

/** Content of a response by status: JSON by schema, or no body. A raw response is written by its route. */
type Sent<A extends Answer> = A extends z.ZodType ? [value: z.input<A>] : A extends null ? [] : never;

/** One route: its request and responses. The OpenAPI description is generated from these. */
export interface Operation<P extends z.ZodType, Q extends z.ZodType, B extends z.ZodType, A extends Answers> {
  method: Method;
  /** Path below /api, with parameters in braces. */
  path: string;
  summary: string;
  params?: P;
  query?: Q;
  body?: B;
  /** Responses by status; null: no body. */
  answers: A;
  /** Reads a body that is not JSON. */
  reader?: RequestHandler;
}

export interface Asked<P, Q, B, A extends Answers> {
  params: P;
  query: Q;
  body: B;
  req: Request;
  res: Response;
  /** Sends JSON, or no body, as the operation defines for that status. */
  answer<S extends keyof A & number>(status: S, ...value: Sent<A[S]>): void;
}

const KEY_PARAMETER = {
  name: KEY_HEADER,
  in: 'header',
  required: false,
  description: 'A repeated request with the same key is not carried out again, and gets the same answer.',
  schema: { type: 'string', pattern: IDEMPOTENCY_KEY.source },
};

type AnyOperation = Operation<z.ZodType, z.ZodType, z.ZodType, Answers>;

const isRaw = (answer: Answer): answer is Raw => answer !== null && 'holds' in answer;

/** The routes of the server, each registered with its description. */
export class Api {
  readonly router = Router();
  private readonly operations: AnyOperation[] = [];

  /** @param strict Validates responses too, for tests: a mismatch becomes a 500. */
  constructor(
    private readonly strict: boolean,
    private readonly repeats: Repeats,
  ) {}

  route<P extends z.ZodType, Q extends z.ZodType, B extends z.ZodType, A extends Answers>(
    operation: Operation<P, Q, B, A>,
    handle: (asked: Asked<z.infer<P>, z.infer<Q>, z.infer<B>, A>) => Promise<void> | void,
  ): void {
    const known = operation as unknown as AnyOperation;
    this.operations.push(known);
    const { method, path, params, query, body, answers, reader } = operation;
    const handler: RequestHandler = (req, res) =>
      this.repeats.once(req, res, async (store) => {
        const answer = <S extends keyof A & number>(status: S, ...[value]: Sent<A[S]>): void => {
          if (this.strict) mustMatch(known, status, value);
          store(status, value, () => {
            // Data may change at any moment. The tag is the revision of the editable part, not of the whole response.
            res.status(status).set('Cache-Control', 'no-store');
            delete req.headers['if-none-match'];
            if (answers[status] === null) res.end();
            else res.json(value);
          });
        };
        await handle({
          params: (params ? check(params, req.params) : {}) as z.infer<P>,
          query: (query ? check(query, req.query) : {}) as z.infer<Q>,
          body: (body ? check(body, req.body ?? {}) : undefined) as z.infer<B>,
          req,
          res,
          answer,
        });
      });
    this.router[method](path.replace(/\{(\w+)\}/g, ':$1'), ...(reader ? [reader] : []), handler);
  }

  /** The description of all routes (OpenAPI 3.1). */
  describe(): object {
    const paths: Record<string, Record<string, unknown>> = {};
    for (const operation of this.operations) {
      const { method, path, summary, params, query, body, answers } = operation;
      (paths[`/api${path}`] ??= {})[method] = {
        summary,
        parameters: [
          ...parameters('path', params),
          ...parameters('query', query),
          ...(method === 'get' ? [] : [KEY_PARAMETER]),
        ],
        ...(body ? { requestBody: { required: true, content: json(body, 'input') } } : {}),
        responses: {
          ...Object.fromEntries(Object.entries(answers).map(([status, a]) => [status, described(a)])),
          default: {
            description: 'Something is wrong (RFC 9457).',
            content: { 'application/problem+json': { schema: jsonSchema(problemSchema, 'output') } },
          },
        },
      };
    }
    return { openapi: '3.1.0', info: { title: 'Inkavo', version: '1' }, paths };
  }
}

function mustMatch({ method, path, answers }: AnyOperation, status: number, value: unknown): void {
  const expected = answers[status];
  if (expected === undefined) throw new Error(`${method} ${path} answers ${status}, which is not described.`);
  if (expected === null || isRaw(expected)) return;
  const parsed = expected.safeParse(JSON.parse(JSON.stringify(value)));
  if (!parsed.success) throw new Error(`${method} ${path} answers ${status} otherwise: ${parsed.error.message}`);
}

const jsonSchema = (schema: z.ZodType, io: 'input' | 'output') =>
  z.toJSONSchema(schema, { io, unrepresentable: 'any' });
const json = (schema: z.ZodType, io: 'input' | 'output') => ({
  'application/json': { schema: jsonSchema(schema, io) },
});

function described(answer: Answer): object {
  if (answer === null) return { description: 'Done.' };
  if (isRaw(answer))
    return { description: answer.holds, content: { [answer.type]: { schema: { type: 'string', format: 'binary' } } } };
  return { description: 'Done.', content: json(answer, 'output') };
}

function parameters(place: 'path' | 'query', schema: z.ZodType | undefined): object[] {
  if (!schema) return [];
  const { properties = {}, required = [] } = jsonSchema(schema, 'input') as {
    properties?: Record<string, unknown>;
    required?: string[];
  };
  return Object.entries(properties).map(([name, s]) => ({
    name,
    in: place,
    required: place === 'path' || required.includes(name),
    schema: s,
  }));
}

/** Revision of an editable resource, for `ETag` and `If-Match` (RFC 9110). */
export const etagOf = (value: unknown): string =>
  `"${createHash('sha256').update(JSON.stringify(value)).digest('base64url').slice(0, 22)}"`;

/** Refuses a change to a resource that has changed since the client read it, if the client states what it read. */
export function checkMatch(req: Request, current: unknown): void {
  const wanted = req.headers['if-match'];
  if (wanted === undefined || wanted === '*') return;
  const tags = wanted.split(',').map((t) => t.trim().replace(/^W\//, ''));
  if (!tags.includes(etagOf(current)))
    throw new HttpError(412, 'out-of-date', 'This was changed since it was read. Nothing was changed.');
}
