/** Delay until the browser has read the file. */
const TAKEN_MS = 10_000;

/** Downloads a file generated on this page. */
export function saveFile(content: Blob, name: string): void {
  const url = URL.createObjectURL(content);
  const link = document.createElement('a');
  link.href = url;
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(url), TAKEN_MS);
}
