import type { RequestListener } from 'node:http';
import type { Response } from 'express';
import PQueue from 'p-queue';
import type { Device, JoinCode, SharingState } from '@inkavo/core/model/sharing';
import { LOOPBACK, type Config, type Library } from '../config';
import type { Events } from '../events';
import type { DeviceStore, SharingSettings } from '../stores/devices';
import { networkAddresses } from './addresses';
import { certificateAt } from './certificate';
import { Codes } from './codes';
import { Listener } from './listener';
import { qrPath } from './qrCode';

/** Position of the code in a link: in the hash, which browsers do not send. */
const joinLink = (address: string, key: string): string => `${address}/join#${key}`;

const nowS = (): number => Date.now() / 1000;

/** Minimum interval between updates of a device's last visit. */
const SEEN_EVERY_S = 60;

/**
 * Sharing with other devices: a listener for them, the code that pairs a device, and the paired ones. Off until the
 * user switches it on.
 */
export class Sharing {
  private readonly codes = new Codes();
  private readonly inTurn = new PQueue({ concurrency: 1 });
  /** Responses in progress per device, so that they end when it is removed. */
  private readonly answering = new Map<string, Set<Response>>();
  private application!: RequestListener;
  private listener: Listener | null = null;
  private trouble: string | null = null;

  constructor(
    private readonly config: Config,
    private readonly library: Library,
    private readonly store: DeviceStore,
    private readonly events: Events,
  ) {}

  /** Listens again as it did before the last stop. */
  async start(application: RequestListener): Promise<void> {
    this.application = application;
    const settings = await this.store.settings();
    await this.inTurn.add(() => this.follow(settings));
  }

  async state(): Promise<SharingState> {
    const { on, encrypted } = await this.store.settings();
    return {
      on,
      encrypted,
      fingerprint: this.listener?.certificate?.fingerprint ?? null,
      addresses: this.addresses(),
      trouble: this.trouble,
      unguarded: !LOOPBACK.includes(this.config.host),
      devices: (await this.store.list()).map((d) => (this.answering.get(d.id)?.size ? { ...d, seenAt: nowS() } : d)),
    };
  }

  /** Switching it off, or to another kind of address, ends responses in progress; without a change it does nothing. */
  async set(change: Partial<SharingSettings>): Promise<SharingState> {
    await this.inTurn.add(async () => {
      const now = await this.store.settings();
      const settings = { ...now, ...change };
      if (settings.on === now.on && settings.encrypted === now.encrypted && this.trouble === null) return;
      await this.store.set(settings);
      await this.follow(settings);
    });
    this.events.send({ type: 'sharing' });
    return this.state();
  }

  /** The code that pairs the next device, with its links. */
  code(): JoinCode {
    const { digits, key, until } = this.codes.current();
    const links = this.addresses().map((a) => joinLink(a.url, key));
    return { code: digits, until, links: links.map((url) => ({ url, qr: qrPath(url) })) };
  }

  /** Pairs a device that knows the code. Throws an {@link HttpError} with the reason if it does not. */
  async join(code: string, name: string): Promise<{ device: Device; secret: string }> {
    this.codes.take(code);
    const admitted = await this.store.add(name, nowS());
    this.events.send({ type: 'sharing' });
    return admitted;
  }

  /** The device identified by a secret; null if unknown. `res` is the response to it. */
  async known(secret: string, res: Response): Promise<Device | null> {
    const device = await this.store.find(secret);
    if (!device) return null;
    const now = nowS();
    if (now - device.seenAt > SEEN_EVERY_S) await this.store.seen(device.id, now);
    const open = this.answering.get(device.id) ?? new Set();
    this.answering.set(device.id, open.add(res));
    res.on('close', () => open.delete(res));
    return device;
  }

  /** Removes a device; responses to it end. */
  async remove(id: string): Promise<void> {
    await this.store.remove(id);
    const open = this.answering.get(id);
    this.answering.delete(id);
    // The request by which it removes itself is answered first.
    setImmediate(() => open?.forEach((res) => void (res.writableEnded || res.destroy())));
    this.events.send({ type: 'sharing' });
  }

  close = (): Promise<void> => this.inTurn.add(() => this.shut()) as Promise<void>;

  /** The listener for other devices; null while sharing is off. */
  get port(): number | null {
    return this.listener?.port ?? null;
  }

  private addresses(): SharingState['addresses'] {
    const { listener } = this;
    return listener ? networkAddresses().map(({ network, address }) => ({ network, url: listener.url(address) })) : [];
  }

  private async follow({ on, encrypted }: SharingSettings): Promise<void> {
    await this.shut();
    this.trouble = null;
    if (!on) return;
    const port = this.config.sharePort ?? (this.config.port && this.config.port + 1);
    try {
      const certificate = encrypted ? await certificateAt(this.library.certificate) : null;
      this.listener = await Listener.open(port, certificate, this.application);
    } catch (error) {
      const { code, message } = error as NodeJS.ErrnoException;
      this.trouble =
        code === 'EADDRINUSE'
          ? `Another program uses port ${port}. End it, or start the server with INKAVO_SHARE_PORT set to another one.`
          : `This machine does not let the server listen: ${message}.`;
    }
  }

  private async shut(): Promise<void> {
    this.codes.drop();
    await this.listener?.close();
    this.listener = null;
  }
}
