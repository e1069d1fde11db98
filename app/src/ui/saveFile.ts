/** Long enough for the browser to have taken the file. */
const TAKEN_MS = 10_000;

/** Hands a file that was made on this page to the person, as a download. */
export function saveFile(content: Blob, name: string): void {
  const url = URL.createObjectURL(content);
  const link = document.createElement('a');
  link.href = url;
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(url), TAKEN_MS);
}
