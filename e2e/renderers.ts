import { join } from 'node:path';
import { build } from 'esbuild';
import type { Page } from 'playwright-core';
import type { PlanarPicture } from '@inkavo/core/program/cpu/planar';
import { repositoryRoot } from '@inkavo/media/root';
import type { CpuPicture } from '../app/src/engine/picture/cpuPicture';
import type { GpuPicture } from '../app/src/engine/picture/gpuPicture';
import type { View } from '../app/src/engine/picture/look';

/** Exposes the application's own renderers in a page, as `window.renderers`, with helpers for data. */
export interface Renderers {
  GpuPicture: typeof GpuPicture;
  CpuPicture: typeof CpuPicture;
  WHOLE: View;
  /** Inverse of {@link listed}. */
  typed(value: unknown): unknown;
  /** Inverse of {@link samplesOf}. */
  bytesOf(text: string): ArrayBuffer;
}

/** A value with typed arrays converted to arrays, for the page. */
export const listed = (value: unknown): unknown =>
  value instanceof Float32Array
    ? { f32: Array.from(value) }
    : Array.isArray(value)
      ? value.map(listed)
      : value && typeof value === 'object'
        ? Object.fromEntries(Object.entries(value).map(([k, v]) => [k, listed(v)]))
        : value;

/** The samples of a picture with a buffer of its own, for the page. */
export const samplesOf = ({ y }: PlanarPicture): string => Buffer.from(y.buffer).toString('base64');

/** Loads the renderers into a page. */
export async function bringRenderers(page: Page): Promise<void> {
  const engine = join(repositoryRoot(), 'app/src/engine/picture');
  const { outputFiles } = await build({
    stdin: {
      resolveDir: engine,
      contents: `
        export { CpuPicture } from './cpuPicture';
        export { GpuPicture } from './gpuPicture';
        export { WHOLE } from './look';
        export const bytesOf = (text) => Uint8Array.from(atob(text), (c) => c.charCodeAt(0)).buffer;
        export const typed = (v) =>
          Array.isArray(v) ? v.map(typed)
          : v && typeof v === 'object'
            ? 'f32' in v ? Float32Array.from(v.f32) : Object.fromEntries(Object.entries(v).map(([k, x]) => [k, typed(x)]))
            : v;`,
    },
    ...({ bundle: true, write: false, format: 'iife', globalName: 'bundled', logLevel: 'error' } as const),
  });
  await page.evaluate(`${outputFiles[0].text}; window.renderers = bundled;`);
}
