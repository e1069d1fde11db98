/** A clip of the made-up outing: its place on the card. */
export interface DemoClip {
  folder: string;
  file: string;
}

/** One clip of each camera, quickest to render first: needed before all others. */
export const FIRST_CLIPS: readonly DemoClip[] = [
  { folder: 'BANK_CAMERA', file: 'boat_shed_01.mp4' },
  { folder: 'QUADCOPTER', file: 'channel_east_03.mp4' },
  { folder: 'HELMET_CAMERA', file: 'paddle_out_07.mp4' },
  { folder: 'DIVE_HOUSING', file: 'mooring_block_02.mp4' },
];

/** More of the same day, for trying things on many clips: a fifth camera, and three clips from each of two others. */
export const MORE_CLIPS: readonly DemoClip[] = [
  { folder: 'JETTY_CAMERA', file: 'tide_gauge_04.mp4' },
  { folder: 'HELMET_CAMERA', file: 'paddle_out_08.mp4' },
  { folder: 'HELMET_CAMERA', file: 'paddle_back_11.mp4' },
  { folder: 'DIVE_HOUSING', file: 'eelgrass_03.mp4' },
  { folder: 'DIVE_HOUSING', file: 'eelgrass_05.mp4' },
];

export const DEMO_CLIPS = [...FIRST_CLIPS, ...MORE_CLIPS];

/** Offset in the dive of the clip of the mooring block, in seconds. */
export const DIVE_OFFSET = 94;
