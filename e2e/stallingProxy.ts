import { createConnection, createServer, type AddressInfo, type Socket } from 'node:net';

/** A network between a page and its server that can stall silently, as a poor one does. */
export interface StallingProxy {
  address: string;
  /** Open connections go silent for good, and stay open; new ones are silent too until {@link revive}. */
  stall(): void;
  /** A connection that requests a matching URL goes silent with that request. Resolves at the first one. */
  silence(address: RegExp): Promise<void>;
  /** Open connections end; with `refuse`, new ones do too until {@link revive}. */
  breakOff(refuse: boolean): void;
  /** New connections work again. Silent ones stay so: neither side knows about them any more. */
  revive(): void;
  close(): void;
}

/** Proxies a server at an address (host and port). */
export async function stallingProxy(server: string): Promise<StallingProxy> {
  const { hostname, port } = new URL(server);
  const sockets = new Set<Socket>();
  let silent = false;
  let refused = false;
  let silenced: { address: RegExp; begun(): void } | undefined;
  const proxy = createServer((near) => {
    sockets.add(near);
    near.on('error', () => near.destroy());
    if (refused) return void near.destroy();
    if (silent) return void near.pause();
    const far = createConnection(Number(port), hostname);
    sockets.add(far);
    far.on('error', () => far.destroy());
    near.on('data', (chunk: Buffer) => {
      if (!silenced?.address.test(chunk.toString('latin1').split('\r\n')[0])) return;
      far.unpipe(near);
      silenced.begun();
    });
    near.pipe(far);
    far.pipe(near);
  });
  await new Promise<void>((resolve) => proxy.listen(0, '127.0.0.1', resolve));
  return {
    address: `http://127.0.0.1:${(proxy.address() as AddressInfo).port}`,
    stall() {
      silent = true;
      for (const socket of sockets) {
        socket.unpipe();
        socket.pause();
      }
    },
    breakOff(refuse) {
      refused = refuse;
      for (const socket of sockets) socket.destroy();
      sockets.clear();
    },
    silence: (address) => new Promise((begun) => (silenced = { address, begun })),
    revive() {
      silent = false;
      refused = false;
      silenced = undefined;
    },
    close() {
      proxy.close();
      for (const socket of sockets) socket.destroy();
    },
  };
}
