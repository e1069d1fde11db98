import { networkInterfaces } from 'node:os';

/** Interfaces of virtual machines and containers, which no tablet is on (common names on Linux). */
const VIRTUAL = /^(docker|br-|veth|virbr|vmnet|vboxnet|tun|tap)/;

/** IPv4 addresses of this machine; those unlikely to be reachable for other devices come last. */
export function networkAddresses(interfaces = networkInterfaces()): { network: string; address: string }[] {
  const found = Object.entries(interfaces).flatMap(([network, list]) =>
    (list ?? []).filter((i) => i.family === 'IPv4' && !i.internal).map(({ address }) => ({ network, address })),
  );
  const rank = ({ network }: { network: string }): number => Number(VIRTUAL.test(network));
  return found.toSorted((a, b) => rank(a) - rank(b));
}
