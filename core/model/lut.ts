/** A table in the library, as it is listed. */
export interface LutEntry {
  /** SHA-256 of the file. */
  id: string;
  title: string;
  /** What kind it is: "33³ cube". */
  note: string;
}
