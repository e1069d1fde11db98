import { existsSync } from 'node:fs';
import { z } from 'zod';
import { outingSchema } from '@inkavo/core/model/outing';
import { openDemo } from '../demo/load';
import type { Api } from '../http/api';
import type { Parts } from '../parts';

const opened = z.object({ outing: outingSchema, card: z.boolean() });
/** `load`: whether to import its clips when it is created. */
const wanted = z.object({ load: z.boolean().default(true) }).default({ load: true });

/** The demo outing: created if missing. */
export function demoRoutes(api: Api, parts: Parts): void {
  api.route(
    { method: 'post', path: '/demo', summary: 'The demo outing', body: wanted, answers: { 200: opened, 201: opened } },
    async ({ body, answer }) => {
      const { outing, isNew } = await openDemo(parts, body.load);
      answer(isNew ? 201 : 200, { outing, card: existsSync(parts.config.card) });
    },
  );
}
