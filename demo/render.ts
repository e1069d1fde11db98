import { spawn } from 'node:child_process';
import { mkdirSync, renameSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { hash, noiseTile } from './noise';
import { makeFrame, type Frame } from './plate';
import { DIVE_OFFSET } from './catalogue';
import type { Scene } from './scenes';

const TILE = 1 << 20;

/** Rounds code values after adding noise from a tile, read cyclically starting at `from`. */
function addNoise(
  plane: Float32Array,
  amount: number,
  tile: Float32Array,
  from: number,
  max: number,
  out: Uint8Array | Uint16Array,
): void {
  for (let start = 0, n = from; start < plane.length; n = 0) {
    const end = Math.min(plane.length, start + TILE - n);
    const shift = n - start;
    for (let p = start; p < end; p += 1)
      out[p] = Math.max(1, Math.min(max - 1, plane[p] + amount * tile[p + shift] + 0.5));
    start = end;
  }
}

/** Code values with the camera's noise, as the bytes of a planar frame. */
function pack(frame: Frame, scene: Scene, tile: Float32Array, i: number): Buffer {
  const { camera } = scene;
  const max = 2 ** camera.depth - 1;
  const samples = frame.y.length + 2 * frame.cb.length;
  const bytes = Buffer.alloc(camera.depth === 8 ? samples : samples * 2);
  const out =
    camera.depth === 8
      ? new Uint8Array(bytes.buffer, bytes.byteOffset, samples)
      : new Uint16Array(bytes.buffer, bytes.byteOffset, samples);
  const planes = [
    [frame.y, camera.noise],
    [frame.cb, camera.noise * 0.7],
    [frame.cr, camera.noise * 0.7],
  ] as const;
  let at = 0;
  for (const [which, [plane, amount]] of planes.entries()) {
    addNoise(plane, amount, tile, Math.floor(hash(i, which, 7) * TILE), max, out.subarray(at, at + plane.length));
    at += plane.length;
  }
  return bytes;
}

const CODECS: Record<Scene['codec'], string[]> = {
  h264: ['-c:v', 'libx264', '-preset', 'veryfast', '-crf', '15', '-g', '30', '-bf', '2'],
  // Approximate bitrate of a drone's camera at 4K (common practice: 60 to 100 Mbit/s), so that decoding costs as much.
  hevc: [
    '-c:v',
    'libx265',
    '-preset',
    'ultrafast',
    '-tag:v',
    'hvc1',
    '-x265-params',
    'log-level=error:bitrate=26000:keyint=30:bframes=0',
  ],
};

/** Renders a scene onto the card folder and writes its truth beside it; reports progress, 0–1. */
export async function renderScene(scene: Scene, card: string, progress: (share: number) => void): Promise<void> {
  const path = join(card, scene.folder, scene.file);
  mkdirSync(dirname(path), { recursive: true });
  const part = `${path}.part`;
  const seconds = scene.frames / scene.fps;
  const pixel = scene.camera.depth === 8 ? 'yuv420p' : 'yuv420p10le';
  const colour = [
    '-color_range',
    'tv',
    '-colorspace',
    'bt709',
    ...(scene.camera.depth === 8 ? ['-color_primaries', 'bt709', '-color_trc', 'bt709'] : []),
  ];
  const child = spawn(
    'ffmpeg',
    [
      '-hide_banner',
      '-loglevel',
      'error',
      '-y',
      '-f',
      'rawvideo',
      '-pix_fmt',
      pixel,
      '-s',
      `${scene.width}x${scene.height}`,
      '-r',
      String(scene.fps),
      '-i',
      'pipe:0',
      '-f',
      'lavfi',
      '-i',
      `anoisesrc=color=brown:amplitude=0.25:seed=${scene.hum}:duration=${seconds}`,
      '-f',
      'lavfi',
      '-i',
      `sine=frequency=${scene.hum}:duration=${seconds}`,
      '-filter_complex',
      '[2:a]volume=0.15[h];[1:a][h]amix=inputs=2[a]',
      '-map',
      '0:v',
      '-map',
      '[a]',
      ...CODECS[scene.codec],
      ...colour,
      '-c:a',
      'aac',
      '-b:a',
      '96k',
      '-shortest',
      '-metadata',
      `creation_time=${scene.recordedAt ?? '2031-06-14T09:20:00Z'}`,
      '-movflags',
      '+faststart',
      '-f',
      'mp4',
      part,
    ],
    { stdio: ['pipe', 'inherit', 'inherit'] },
  );
  const ended = new Promise<void>((resolve, reject) => {
    child.on('close', (code) =>
      code === 0 ? resolve() : reject(new Error(`The encoder ended with ${code} on ${scene.file}.`)),
    );
    child.on('error', reject);
  });
  const fill = scene.prepare();
  const frame = makeFrame(scene.width, scene.height);
  const tile = noiseTile(TILE, 5);
  for (let i = 0; i < scene.frames; i += 1) {
    fill(i, frame);
    if (i % 8 === 0) progress(i / scene.frames);
    if (!child.stdin.write(pack(frame, scene, tile, i)))
      await new Promise((resolve) => child.stdin.once('drain', resolve));
  }
  child.stdin.end();
  await ended;
  writeTruth(scene, path);
  renameSync(part, path);
}

/** Truth of the scene: light, patches and their positions. */
function writeTruth(scene: Scene, path: string): void {
  const truth = {
    file: scene.file,
    frameRate: scene.fps,
    profile: scene.camera.profile,
    whiteSeen: scene.camera.sees,
    light: scene.light,
    patches: Array.from({ length: scene.frames }, (_, i) => i)
      .filter((i) => i % 15 === 0)
      .map((i) => ({ frame: i, places: scene.patches(i) })),
    ...(scene.dive
      ? {
          water: scene.dive.water,
          depth: Array.from({ length: scene.frames / 15 }, (_, k) => ({
            frame: k * 15,
            metres: scene.dive!.depthAt((k * 15) / scene.fps),
          })),
        }
      : {}),
  };
  writeFileSync(path.replace(/\.mp4$/, '.truth.json'), `${JSON.stringify(truth, null, 1)}\n`);
  // The log is stored beside the clip that shows the whole descent.
  if (scene.dive && scene.patches(0).length > 0)
    writeFileSync(path.replace(/\.mp4$/, '.uddf'), diveLog(scene.dive.depthAt));
}

const DIVE_SECONDS = 420;
const SAMPLE_SECONDS = 2;

/** Depth over the whole dive: down to where the clip begins, along with it, level for a while, and up again. */
function diveDepth(depthAt: (seconds: number) => number, seconds: number): number {
  const inClip = seconds - DIVE_OFFSET;
  if (inClip < 0) return Math.max(0, depthAt(0) * Math.min(1, seconds / 60));
  if (inClip < 8) return depthAt(inClip);
  const after = seconds - DIVE_OFFSET - 8;
  return Math.max(0, depthAt(8) + 1.5 * Math.sin(after / 25) * Math.min(1, after / 20) - Math.max(0, after - 200) / 10);
}

/** The dive as a log for the clip (UDDF 3.2: metres, seconds, kelvin). */
function diveLog(depthAt: (seconds: number) => number): string {
  const waypoints = Array.from({ length: DIVE_SECONDS / SAMPLE_SECONDS + 1 }, (_, i) => {
    const t = i * SAMPLE_SECONDS;
    const z = diveDepth(depthAt, t);
    return `          <waypoint><depth>${z.toFixed(2)}</depth><divetime>${t}</divetime><temperature>${(287.4 - 0.12 * z).toFixed(2)}</temperature></waypoint>`;
  });
  return [
    '<?xml version="1.0" encoding="UTF-8"?>',
    '<uddf version="3.2.1">',
    '  <profiledata>',
    '    <repetitiongroup id="saltmark">',
    '      <dive id="mooring-block">',
    '        <informationbeforedive><datetime>2031-06-14T09:18:00</datetime></informationbeforedive>',
    '        <samples>',
    ...waypoints,
    '        </samples>',
    '      </dive>',
    '    </repetitiongroup>',
    '  </profiledata>',
    '</uddf>',
    '',
  ].join('\n');
}
