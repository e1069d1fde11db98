import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { ciede2000 } from '@inkavo/core/colour/difference';
import { encodedToLab, linearToLab } from '@inkavo/core/colour/lab';
import type { Vec3 } from '@inkavo/core/colour/matrix';
import { CARD } from '@inkavo/demo/folder';
import type { PatchPlace } from '@inkavo/demo/patches';
import { SCENES } from '@inkavo/demo/scenes';

/** Patches of a demo clip near a frame, as shares of the picture. */
export function patchesOf(folder: string, frame: number): PatchPlace[] {
  const scene = SCENES.find((s) => s.folder === folder)!;
  const truth = JSON.parse(readFileSync(join(CARD, folder, scene.file.replace('.mp4', '.truth.json')), 'utf8')) as {
    patches: { frame: number; places: PatchPlace[] }[];
  };
  const { places } = truth.patches.find((p) => p.frame === frame)!;
  return places.map((p) => ({
    ...p,
    x: p.x / scene.width,
    y: p.y / scene.height,
    width: p.width / scene.width,
    height: p.height / scene.height,
  }));
}

/** Mean CIEDE2000 between patches in an 8-bit picture and the truth. */
export function patchError(picture: { width: number; height: number; rgb: Uint8Array }, places: PatchPlace[]): number {
  const errors = places.map((p) => {
    const sum: Vec3 = [0, 0, 0];
    let n = 0;
    for (let y = Math.ceil(p.y * picture.height); y < Math.floor((p.y + p.height) * picture.height); y += 1) {
      for (let x = Math.ceil(p.x * picture.width); x < Math.floor((p.x + p.width) * picture.width); x += 1, n += 1) {
        for (let c = 0; c < 3; c += 1) sum[c] += picture.rgb[(y * picture.width + x) * 3 + c] / 255;
      }
    }
    return ciede2000(encodedToLab(sum.map((v) => v / n) as Vec3), linearToLab(p.reflectance));
  });
  return errors.reduce((a, e) => a + e, 0) / errors.length;
}
