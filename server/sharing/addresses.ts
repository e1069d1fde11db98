import { networkInterfaces } from 'node:os';

/** Networks that virtual machines and containers make on this machine: no tablet is on them (common names on Linux). */
const VIRTUAL = /^(docker|br-|veth|virbr|vmnet|vboxnet|tun|tap)/;

/** IPv4 addresses of this machine on its networks; those that other devices hardly are on come last. */
export function networkAddresses(interfaces = networkInterfaces()): { network: string; address: string }[] {
  const found = Object.entries(interfaces).flatMap(([network, list]) =>
    (list ?? []).filter((i) => i.family === 'IPv4' && !i.internal).map(({ address }) => ({ network, address })),
  );
  const rank = ({ network }: { network: string }): number => Number(VIRTUAL.test(network));
  return found.toSorted((a, b) => rank(a) - rank(b));
}
