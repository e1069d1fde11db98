import { useEffect, useRef, useState } from 'react';
import { clipsAmong, withPaths, type DeviceFile } from '../../api/deviceFiles';

/** Maximum depth of a card's folders. */
const DEEPEST = 8;

const fileOf = (entry: FileSystemFileEntry): Promise<File> =>
  new Promise((resolve, reject) => entry.file(resolve, reject));

/** All entries of a folder; a reader returns them in batches. */
async function entriesOf(folder: FileSystemDirectoryEntry): Promise<FileSystemEntry[]> {
  const reader = folder.createReader();
  const all: FileSystemEntry[] = [];
  for (;;) {
    const part = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject));
    if (part.length === 0) return all;
    all.push(...part);
  }
}

async function filesIn(entry: FileSystemEntry, depth = 0): Promise<DeviceFile[]> {
  if (entry.isFile) return [{ file: await fileOf(entry as FileSystemFileEntry), path: entry.fullPath.slice(1) }];
  if (depth >= DEEPEST) return [];
  const entries = await entriesOf(entry as FileSystemDirectoryEntry);
  return (await Promise.all(entries.map((e) => filesIn(e, depth + 1)))).flat();
}

/**
 * Dropped files, including the contents of folders. A drop's list is cleared after the event, so entries are read
 * synchronously.
 */
function dropped(data: DataTransfer): Promise<DeviceFile[]> {
  const entries = [...data.items].flatMap((item) => item.webkitGetAsEntry() ?? []);
  if (entries.length === 0) return Promise.resolve(withPaths(data.files));
  return Promise.all(entries.map((e) => filesIn(e))).then((lists) => lists.flat());
}

const hasFiles = (event: DragEvent): boolean => event.dataTransfer?.types.includes('Files') ?? false;

/** Accepts files and folders dropped anywhere on the page. Returns whether a drag is over it. */
export function useDrop(onFiles: (clips: DeviceFile[], others: number) => void): boolean {
  const [over, setOver] = useState(false);
  const latest = useRef(onFiles);
  useEffect(() => {
    latest.current = onFiles;
  });
  useEffect(() => {
    // Enter and leave events of nested elements are counted.
    let depth = 0;
    const show = (by: number): void => {
      depth = Math.max(0, depth + by);
      setOver(depth > 0);
    };
    const enter = (e: DragEvent): void => (hasFiles(e) ? show(1) : undefined);
    const leave = (e: DragEvent): void => (hasFiles(e) ? show(-1) : undefined);
    const hover = (e: DragEvent): void => (hasFiles(e) ? e.preventDefault() : undefined);
    const drop = (e: DragEvent): void => {
      if (!hasFiles(e)) return;
      e.preventDefault();
      depth = 0;
      setOver(false);
      void dropped(e.dataTransfer!).then((files) => {
        const { clips, others } = clipsAmong(files);
        latest.current(clips, others);
      });
    };
    const events = { dragenter: enter, dragleave: leave, dragover: hover, drop } as const;
    for (const [name, f] of Object.entries(events)) window.addEventListener(name as 'drop', f);
    return () => {
      for (const [name, f] of Object.entries(events)) window.removeEventListener(name as 'drop', f);
    };
  }, []);
  return over;
}
