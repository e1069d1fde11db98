import * as T from '../../colour/transfer';
import { decode709, encode709 } from '../../colour/transferTables';
import type { TransferSpec } from '../../model/profile';

/** HLG scene light of reference white: 75 % signal (ITU-R BT.2408). */
const HLG_WHITE = T.hlg.decode(0.75);
/** PQ display light of reference white: 203 cd/m² (ITU-R BT.2408). */
const PQ_WHITE = 203 / 10000;

/**
 * The function from a profile's signal to working linear light, in which 1 is reference white and a grey card is near
 * 0.18. Throws a RangeError for invalid log parameters.
 *
 * HLG is scene light, scaled so that 75 % is 1. PQ is display light: it is converted back through the BT.1886 display
 * of BT.2100's PQ OOTF, so that 203 cd/m² becomes 1 and tones keep their positions on the waveform.
 */
export function signalToLinear(spec: TransferSpec): (signal: number) => number {
  switch (spec.kind) {
    case 'bt709':
      return decode709;
    case 'srgb':
      return T.srgb.decode;
    case 'bt1886':
      return T.bt1886.decode;
    case 'gamma':
      return T.gamma(spec.exponent).decode;
    case 'hlg':
      return (v) => T.hlg.decode(v) / HLG_WHITE;
    case 'pq':
      return (v) => decode709(T.bt1886.encode(T.pq.decode(v) / PQ_WHITE));
    case 'logCamera':
      return T.logCamera(spec).decode;
  }
}

/** The inverse of {@link signalToLinear}, for fitting profiles and rendering test footage. */
export function linearToSignal(spec: TransferSpec): (linear: number) => number {
  switch (spec.kind) {
    case 'bt709':
      return encode709;
    case 'srgb':
      return T.srgb.encode;
    case 'bt1886':
      return T.bt1886.encode;
    case 'gamma':
      return T.gamma(spec.exponent).encode;
    case 'hlg':
      return (l) => T.hlg.encode(l * HLG_WHITE);
    case 'pq':
      return (l) => T.pq.encode(T.bt1886.decode(encode709(l)) * PQ_WHITE);
    case 'logCamera':
      return T.logCamera(spec).encode;
  }
}
