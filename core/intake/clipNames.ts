/** Endings of the files that cameras write as clips; what is in them is told by their content. */
const CLIP = /\.(mp4|mov|m4v|mkv|avi|mts|m2ts|ts|mpg|mpeg|3gp|mxf|webm)$/i;

/** Whether a file is a clip by its name; sidecars and thumbnails of cameras are not. */
export const isClipName = (name: string): boolean => CLIP.test(name);
