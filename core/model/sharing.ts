import { z } from 'zod';
import { idSchema } from './outing';

/** Number of digits in a pairing code. */
export const CODE_DIGITS = 6;
/** A code in two halves, easier to read out. */
export const readableCode = (code: string): string =>
  `${code.slice(0, CODE_DIGITS / 2)} ${code.slice(CODE_DIGITS / 2)}`;

/** A device that was paired over the network. */
export const deviceSchema = z.object({
  id: idSchema,
  name: z.string(),
  /** When it was paired, and last seen: seconds since 1970. */
  joinedAt: z.number(),
  seenAt: z.number(),
});
export type Device = z.infer<typeof deviceSchema>;

/** Whether and where other devices on the network can reach this server. */
export const sharingSchema = z.object({
  on: z.boolean(),
  /** Over TLS, with a self-signed certificate. */
  encrypted: z.boolean(),
  /** The certificate's SHA-256 fingerprint; null without encryption. */
  fingerprint: z.string().nullable(),
  /** Its addresses, one for each network; empty while it is off or there is no network. */
  addresses: z.array(z.object({ network: z.string(), url: z.string() })),
  /** Why it is on but cannot be reached. */
  trouble: z.string().nullable(),
  /** The server itself listens on the network, without pairing. */
  unguarded: z.boolean(),
  devices: z.array(deviceSchema),
});
export type SharingState = z.infer<typeof sharingSchema>;

export const sharingRequest = z.object({ on: z.boolean().optional(), encrypted: z.boolean().optional() });

/** A pairing code for one device. */
export const codeSchema = z.object({
  /** {@link CODE_DIGITS} digits, for typing. */
  code: z.string(),
  /** Expiry, seconds since 1970. */
  until: z.number(),
  /** Links that contain it, one for each address, each with its QR code (ISO/IEC 18004). */
  links: z.array(
    z.object({
      url: z.string(),
      /** `path`: its dark modules as an SVG path, `size` × `size` in all including the quiet zone. */
      qr: z.object({ size: z.number().int(), path: z.string() }),
    }),
  ),
});
export type JoinCode = z.infer<typeof codeSchema>;

/** `code`: the digits, or the longer key of a link. */
export const joinRequest = z.object({
  code: z.string().trim().min(1).max(100),
  name: z.string().trim().min(1).max(60),
});

/** The requesting device: null for the server's own machine, and where no pairing is required. */
export const thisDeviceSchema = z.object({ device: deviceSchema.nullable() });
