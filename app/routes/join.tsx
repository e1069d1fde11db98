/** Links that let a device in lead here; the layout shows the way in wherever a device is not known. */
export default function Join() {
  return null;
}
