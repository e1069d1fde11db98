import { renderUnicodeCompact } from 'uqr';
import { readableCode } from '@inkavo/core/model/sharing';
import { MediaError } from '@inkavo/media/codec';
import { CallError, type Command } from '../call';
import { libraryFrom } from '../library';

/**
 * Shares the server with other devices, for a machine without a screen: shows the link as a QR code, the address and
 * the code.
 */
export const share: Command = {
  usage: 'share [--encrypted yes|no] [--stop yes] [--server ADDRESS]',
  options: ['encrypted', 'stop', 'server'],
  withoutFile: true,
  async run(_file, options) {
    for (const name of ['encrypted', 'stop'] as const)
      if (options[name] !== undefined && !['yes', 'no'].includes(options[name]))
        throw new CallError(`--${name} is yes or no.`);
    const library = libraryFrom(options);
    if (options.stop === 'yes') {
      const state = await library.setSharing({ on: false });
      return { lines: ['No other device is let in now.'], data: state };
    }
    const encrypted = options.encrypted === undefined ? {} : { encrypted: options.encrypted === 'yes' };
    const state = await library.setSharing({ on: true, ...encrypted });
    if (state.trouble) throw new MediaError(state.trouble);
    if (state.addresses.length === 0)
      throw new MediaError('This machine is on no network: no other device can reach it.');
    const code = await library.joinCode();
    const minutes = Math.round((code.until - Date.now() / 1000) / 60);
    return {
      lines: [
        renderUnicodeCompact(code.links[0].url),
        ...state.addresses.map((a) => `${a.url}  (${a.network})`),
        `Code ${readableCode(code.code)}, for one device, for ${minutes} minutes`,
        ...(state.fingerprint ? [`SHA-256 of the certificate: ${state.fingerprint}`] : []),
      ],
      data: { ...state, ...code, links: code.links.map((l) => l.url) },
    };
  },
};
