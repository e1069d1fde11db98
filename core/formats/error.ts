/** A file that cannot be read: the message says which line or element is wrong. Nothing of the file was taken. */
export class FormatError extends Error {}
