import { z } from 'zod';
import { idSchema } from './outing';

/** Digits of a code that lets a device in. */
export const CODE_DIGITS = 6;
/** A code in two halves, to be read out. */
export const readableCode = (code: string): string =>
  `${code.slice(0, CODE_DIGITS / 2)} ${code.slice(CODE_DIGITS / 2)}`;

/** A device that was let in over the network. */
export const deviceSchema = z.object({
  id: idSchema,
  name: z.string(),
  /** When it was let in, and when it last asked for something: seconds since 1970. */
  joinedAt: z.number(),
  seenAt: z.number(),
});
export type Device = z.infer<typeof deviceSchema>;

/** Whether and where other devices on the network reach this server. */
export const sharingSchema = z.object({
  on: z.boolean(),
  /** Over TLS, with a certificate that this server signed itself. */
  encrypted: z.boolean(),
  /** The certificate's SHA-256 fingerprint; null without encryption. */
  fingerprint: z.string().nullable(),
  /** Where it is reached, one address for each network; none while it is off or there is no network. */
  addresses: z.array(z.object({ network: z.string(), url: z.string() })),
  /** Why it is on and still cannot be reached. */
  trouble: z.string().nullable(),
  /** The server itself listens on the network, and asks nobody for a code. */
  unguarded: z.boolean(),
  devices: z.array(deviceSchema),
});
export type SharingState = z.infer<typeof sharingSchema>;

export const sharingRequest = z.object({ on: z.boolean().optional(), encrypted: z.boolean().optional() });

/** A code that lets one device in. */
export const codeSchema = z.object({
  /** {@link CODE_DIGITS} digits, to be typed. */
  code: z.string(),
  /** Until when, seconds since 1970. */
  until: z.number(),
  /** Links that carry it, one for each address, each with its QR code (ISO/IEC 18004). */
  links: z.array(
    z.object({
      url: z.string(),
      /** `path`: its dark modules in SVG's path language, `size` × `size` in all with the quiet zone. */
      qr: z.object({ size: z.number().int(), path: z.string() }),
    }),
  ),
});
export type JoinCode = z.infer<typeof codeSchema>;

/** `code`: the digits, or the longer key that a link carries. */
export const joinRequest = z.object({
  code: z.string().trim().min(1).max(100),
  name: z.string().trim().min(1).max(60),
});

/** The device that asks: null for the server's own machine, and where no device is asked for a code. */
export const thisDeviceSchema = z.object({ device: deviceSchema.nullable() });
