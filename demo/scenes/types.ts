import type { CameraModel } from '../camera';
import type { Water } from '../known/spectra';
import type { PatchPlace } from '../patches';
import type { Frame } from '../plate';

/** A made-up clip: how it is recorded and what is in each frame. */
export interface Scene {
  /** Folder on the card, and file name. */
  folder: string;
  file: string;
  width: number;
  height: number;
  fps: number;
  frames: number;
  codec: 'h264' | 'hevc';
  /** When it was recorded, by its camera's clock; as the clip of the mooring block where it is missing. */
  recordedAt?: string;
  camera: CameraModel;
  /** Pitch of the sound that goes with it, Hz, over wind. */
  hum: number;
  /** Scale of the scene's light against the patches' reflectance. */
  light: number;
  /** Paints what does not change, once; the function returned fills frame i. */
  prepare(): (i: number, frame: Frame) => void;
  /** For a clip under water: what water it is, and how deep it is at a time of the clip, metres. */
  dive?: { water: Water; depthAt(seconds: number): number };
  /** Where the patches are in frame i; empty when they are out of the picture. */
  patches(i: number): PatchPlace[];
}
