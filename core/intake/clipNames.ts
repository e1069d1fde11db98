/** File extensions that cameras use for clips; the actual format is detected from the content. */
export const CLIP_ENDINGS = 'mp4 mov m4v mkv avi mts m2ts ts mpg mpeg 3gp mxf webm'.split(' ');
const CLIP = new RegExp(`\\.(${CLIP_ENDINGS.join('|')})$`, 'i');

/** Whether a file is a clip, by its name; sidecars and thumbnails are not. */
export const isClipName = (name: string): boolean => CLIP.test(name);
