import { z } from 'zod';

/** A table in the library, as it is listed. */
export const lutEntrySchema = z.object({
  /** SHA-256 of the file. */
  id: z.string(),
  title: z.string(),
  /** What kind it is: "33³ cube". */
  note: z.string(),
});
export type LutEntry = z.infer<typeof lutEntrySchema>;
