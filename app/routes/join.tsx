/** Target of pairing links; the layout shows the join screen wherever a device is not paired. */
export default function Join() {
  return null;
}
