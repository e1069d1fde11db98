import { createServer, type IncomingMessage, type RequestListener, type Server } from 'node:http';
import { createServer as createSecureServer } from 'node:https';
import type { AddressInfo } from 'node:net';
import type { Certificate } from './certificate';

/** Longer than any client keeps a connection open, so that none is closed during a request. */
export const KEEP_ALIVE_MS = 75_000;

/** Requests received on the listener for other devices. */
const arrived = new WeakSet<IncomingMessage>();

/** Whether a request was received on the listener for other devices, which requires pairing. */
export const fromOtherDevice = (req: IncomingMessage): boolean => arrived.has(req);

/** Listens on all networks of this machine, for other devices. */
export class Listener {
  private constructor(
    private readonly server: Server,
    /** Null: without encryption. */
    readonly certificate: Certificate | null,
  ) {}

  /** Throws the system's error if it cannot listen. */
  static async open(port: number, certificate: Certificate | null, application: RequestListener): Promise<Listener> {
    const handle: RequestListener = (req, res) => {
      arrived.add(req);
      application(req, res);
    };
    const server = certificate ? createSecureServer(certificate, handle) : createServer(handle);
    server.keepAliveTimeout = KEEP_ALIVE_MS;
    await new Promise<void>((resolve, reject) => server.once('error', reject).listen(port, resolve));
    // A connection that breaks off during its handshake does no harm.
    server.on('tlsClientError', () => undefined);
    return new Listener(server, certificate);
  }

  get port(): number {
    return (this.server.address() as AddressInfo).port;
  }

  url = (address: string): string => `${this.certificate ? 'https' : 'http'}://${address}:${this.port}`;

  async close(): Promise<void> {
    this.server.closeAllConnections();
    await new Promise((resolve) => this.server.close(resolve));
  }
}
