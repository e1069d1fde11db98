import { createConnection, createServer, type AddressInfo, type Socket } from 'node:net';

/** A network between a page and its server that can go dead without telling either, as a weak one does. */
export interface StallingProxy {
  address: string;
  /** Connections that are open fall silent for good, and stay open; new ones are silent too until {@link revive}. */
  stall(): void;
  /** A connection over which such an address is asked for falls silent with that. */
  silence(address: RegExp): void;
  /** New connections pass again, whatever is asked for. What fell silent stays so: nobody knows of it any more. */
  revive(): void;
  close(): void;
}

/** Stands in front of a server at an address (host and port). */
export async function stallingProxy(server: string): Promise<StallingProxy> {
  const { hostname, port } = new URL(server);
  const sockets = new Set<Socket>();
  let silent = false;
  let silenced: RegExp | undefined;
  const proxy = createServer((near) => {
    sockets.add(near);
    near.on('error', () => near.destroy());
    if (silent) return void near.pause();
    const far = createConnection(Number(port), hostname);
    sockets.add(far);
    far.on('error', () => far.destroy());
    near.on('data', (chunk: Buffer) => silenced?.test(chunk.toString('latin1').split('\r\n')[0]) && far.unpipe(near));
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
    silence: (address) => (silenced = address),
    revive() {
      silent = false;
      silenced = undefined;
    },
    close() {
      proxy.close();
      for (const socket of sockets) socket.destroy();
    },
  };
}
