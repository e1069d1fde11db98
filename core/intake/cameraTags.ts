/** Tags in which files name the camera: QuickTime's metadata keys, and those that phones and encoders write. From memory. */
const MODEL_TAGS = ['com.apple.quicktime.model', 'com.android.model', 'model', 'camera_model_name'];
const MAKE_TAGS = ['com.apple.quicktime.make', 'com.android.manufacturer', 'make'];
const MAX_CAMERA_NAME = 100;

/** Maker and model of the camera from a file's tags; null if they name none. */
export function cameraOf(tags: Record<string, string>): string | null {
  const lower = new Map(Object.entries(tags).map(([key, value]) => [key.toLowerCase(), value.trim()]));
  const first = (keys: string[]): string => keys.map((k) => lower.get(k)).find(Boolean) ?? '';
  const [make, model] = [first(MAKE_TAGS), first(MODEL_TAGS)];
  if (!model) return null;
  const full = model.toLowerCase().startsWith(make.toLowerCase()) ? model : `${make} ${model}`;
  return full.slice(0, MAX_CAMERA_NAME).trim();
}
