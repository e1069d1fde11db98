import { closeSync, existsSync, openSync, rmSync, writeSync } from 'node:fs';
import { statfs } from 'node:fs/promises';
import { join } from 'node:path';
import { MediaError } from '@inkavo/media/codec';

const CHECK_EVERY_MS = 500;
const BALLAST_BYTES = 8 << 20;

const megabytes = (bytes: number): string => `${Math.max(1, Math.round(bytes / 1e6))} MB`;

/** Not enough disk space. */
export class NoSpace extends MediaError {}

/**
 * Monitors disk space of the data folder. Work that writes files is refused or stopped before the disk is full, so that
 * a reserve remains for the database. If another program fills the disk, a ballast file is deleted to make room for
 * edits.
 */
export class DiskSpace {
  private readonly ballast: string;

  /** @param reserve Bytes that work must leave free. */
  constructor(
    private readonly folder: string,
    private readonly reserve: number,
  ) {
    this.ballast = join(folder, 'ballast');
  }

  /** Bytes available without using the reserve; negative if it is in use. */
  async left(): Promise<number> {
    const { bavail, bsize } = await statfs(this.folder);
    return bavail * bsize - this.reserve;
  }

  /** Throws {@link NoSpace} if this many bytes are not available. */
  async need(bytes: number): Promise<void> {
    const left = await this.left();
    if (left < bytes)
      throw new NoSpace(
        `There is no room on the server’s disk: about ${megabytes(bytes)} are needed, ${left > 0 ? megabytes(left) : 'none'} can be used. Nothing was written.`,
      );
  }

  /** Calls `onFull` once when the reserve is reached; the returned function stops watching. */
  watch(onFull: (reason: NoSpace) => void): () => void {
    const timer = setInterval(() => {
      void this.left()
        .then((left) => {
          if (left >= 0) return;
          clearInterval(timer);
          onFull(new NoSpace('The server’s disk is full. The unfinished file was removed; make room and try again.'));
        })
        .catch(() => undefined);
    }, CHECK_EVERY_MS);
    return () => clearInterval(timer);
  }

  /** Restores the ballast file, if there is room. */
  async fillBallast(): Promise<void> {
    if (existsSync(this.ballast) || (await this.left()) < 2 * BALLAST_BYTES) return;
    const file = openSync(this.ballast, 'w');
    try {
      writeSync(file, Buffer.alloc(BALLAST_BYTES, 1));
    } finally {
      closeSync(file);
    }
  }

  /** Deletes the ballast file, so that the next database write succeeds. */
  dropBallast = (): void => rmSync(this.ballast, { force: true });
}

/** Whether an error means that the disk is full. */
export const isDiskFull = (error: unknown): boolean =>
  ['ENOSPC', 'SQLITE_FULL', 'EDQUOT'].includes(String((error as { code?: unknown }).code));
