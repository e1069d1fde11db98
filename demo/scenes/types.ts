import type { CameraModel } from '../camera';
import type { Water } from '../known/spectra';
import type { PatchPlace } from '../patches';
import type { Frame } from '../plate';

/** A made-up clip: recording format and content. */
export interface Scene {
  /** Folder on the card, and file name. */
  folder: string;
  file: string;
  width: number;
  height: number;
  fps: number;
  frames: number;
  codec: 'h264' | 'hevc';
  /** Recording time by its camera's clock; missing: that of the clip of the mooring block. */
  recordedAt?: string;
  camera: CameraModel;
  /** Frequency of the accompanying tone in Hz, with wind. */
  hum: number;
  /** Scale of the scene's light relative to the patches' reflectance. */
  light: number;
  /** Renders the static parts once; the returned function fills frame i. */
  prepare(): (i: number, frame: Frame) => void;
  /** For a clip under water: its water, and its depth at a time of the clip, in metres. */
  dive?: { water: Water; depthAt(seconds: number): number };
  /** Positions of the patches in frame i; empty if out of the picture. */
  patches(i: number): PatchPlace[];
}
