import { z } from 'zod';
import { PRIMARIES, type Primaries, type PrimariesName } from '../colour/primaries';

const chromaticity = z.object({ x: z.number().min(-0.2).max(1.2), y: z.number().min(-0.2).max(1.2) });

/** Primaries by name or by chromaticities. */
export const primariesSchema = z.union([
  z.enum(Object.keys(PRIMARIES) as [PrimariesName, ...PrimariesName[]]),
  z.object({ red: chromaticity, green: chromaticity, blue: chromaticity, white: chromaticity }),
]);

/** The transfer function of a profile. */
export const transferSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('bt709') }),
  z.object({ kind: z.literal('srgb') }),
  z.object({ kind: z.literal('bt1886') }),
  z.object({ kind: z.literal('gamma'), exponent: z.number().min(0.2).max(5) }),
  z.object({ kind: z.literal('hlg') }),
  z.object({ kind: z.literal('pq') }),
  z.object({
    kind: z.literal('logCamera'),
    base: z.number().positive().max(1e4),
    logSideSlope: z.number(),
    logSideOffset: z.number(),
    linSideSlope: z.number(),
    linSideOffset: z.number(),
    linSideBreak: z.number(),
    linearSlope: z.number().positive().optional(),
  }),
]);

/** How a camera encodes light. */
export const profileSchema = z.object({
  name: z.string().min(1).max(80),
  transfer: transferSchema,
  primaries: primariesSchema,
});

export type Profile = z.infer<typeof profileSchema>;
export type TransferSpec = z.infer<typeof transferSchema>;

export const resolvePrimaries = (p: Profile['primaries']): Primaries => (typeof p === 'string' ? PRIMARIES[p] : p);

/** Standard video: nothing to convert. */
export const STANDARD: Profile = { name: 'Standard video', transfer: { kind: 'bt709' }, primaries: 'bt709' };

export const isStandard = (p: Profile): boolean => p.transfer.kind === 'bt709' && p.primaries === 'bt709';

/** Profiles that come with the application. The two camera ones are invented for the demo. */
export const PROFILES: readonly Profile[] = [
  STANDARD,
  {
    name: 'Drone log, 10 bit',
    transfer: {
      kind: 'logCamera',
      base: 2,
      logSideSlope: 0.0645,
      logSideOffset: 0.5625,
      linSideSlope: 1,
      linSideOffset: 0.0075,
      linSideBreak: 0.006,
    },
    primaries: {
      red: { x: 0.73, y: 0.28 },
      green: { x: 0.15, y: 0.86 },
      blue: { x: 0.1, y: -0.02 },
      white: { x: 0.3127, y: 0.329 },
    },
  },
  {
    name: 'Action camera flat',
    transfer: {
      kind: 'logCamera',
      base: 10,
      logSideSlope: 0.37,
      logSideOffset: 0.71,
      linSideSlope: 1,
      linSideOffset: 0.03,
      linSideBreak: 0.0,
    },
    primaries: 'bt709',
  },
  { name: 'Hybrid log-gamma, wide', transfer: { kind: 'hlg' }, primaries: 'bt2020' },
  { name: 'PQ, wide', transfer: { kind: 'pq' }, primaries: 'bt2020' },
  { name: 'Plain gamma 2.2', transfer: { kind: 'gamma', exponent: 2.2 }, primaries: 'bt709' },
  { name: 'Plain gamma 2.4', transfer: { kind: 'bt1886' }, primaries: 'bt709' },
  { name: 'Computer picture (sRGB)', transfer: { kind: 'srgb' }, primaries: 'bt709' },
];
