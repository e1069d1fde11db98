/** A file that cannot be read: the message names the line or element. Nothing of the file was used. */
export class FormatError extends Error {}
