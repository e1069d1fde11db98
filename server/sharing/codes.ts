import { randomBytes, randomInt, timingSafeEqual } from 'node:crypto';
import { CODE_DIGITS } from '@inkavo/core/model/sharing';
import { HttpError } from '../http/problems';

/** Long enough to walk to the tablet; short enough that a code that was seen is soon worth nothing. */
const VALID_S = 600;
/** A code that ends sooner is not shown any more. */
const ABOUT_TO_END_S = 120;
/** With so many tries one of a million codes is hit once in 200,000 times. */
const TRIES = 5;
const KEY_BYTES = 16;

/** Digits to be typed, and a longer key for links; either lets in one device. */
export interface Code {
  digits: string;
  key: string;
  /** Seconds since 1970. */
  until: number;
}

const same = (a: string, b: string): boolean =>
  a.length === b.length && timingSafeEqual(Buffer.from(a), Buffer.from(b));

/** The code that lets the next device in: at most one at a time, for one device, for some minutes and a few tries. */
export class Codes {
  private code: Code | null = null;
  private tries = 0;

  constructor(private readonly now: () => number = () => Date.now() / 1000) {}

  /** The code that is valid, the same for all who show it, or a new one where it is used up or about to end. */
  current(): Code {
    if (this.code && this.code.until - this.now() > ABOUT_TO_END_S) return this.code;
    this.tries = 0;
    this.code = {
      digits: String(randomInt(10 ** CODE_DIGITS)).padStart(CODE_DIGITS, '0'),
      key: randomBytes(KEY_BYTES).toString('base64url'),
      until: this.now() + VALID_S,
    };
    return this.code;
  }

  /** Uses the code up. Throws an {@link HttpError} that says why where this is not it. */
  take(given: string): void {
    const { code } = this;
    if (!code || this.now() > code.until) {
      this.drop();
      throw new HttpError(403, 'forbidden', 'No code is valid now. Ask for a new one on the server’s machine.');
    }
    const digits = given.replace(/\s/g, '');
    if (!same(given, code.key) && !same(digits, code.digits)) {
      this.tries += 1;
      if (this.tries < TRIES) throw new HttpError(403, 'forbidden', 'This is not the code that is shown there.');
      this.drop();
      throw new HttpError(403, 'forbidden', 'Too many wrong codes: it is not valid any more. Ask for a new one there.');
    }
    this.drop();
  }

  drop(): void {
    this.code = null;
  }
}
