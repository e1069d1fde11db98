import { randomBytes, randomInt, timingSafeEqual } from 'node:crypto';
import { CODE_DIGITS } from '@inkavo/core/model/sharing';
import { HttpError } from '../http/problems';

/** Long enough to walk to the tablet; short enough that an observed code soon expires. */
const VALID_S = 600;
/** A code that expires sooner is not shown any more. */
const ABOUT_TO_END_S = 120;
/** With this many attempts one of a million codes is guessed once in 200,000 times. */
const TRIES = 5;
const KEY_BYTES = 16;

/** Digits for typing, and a longer key for links; either pairs one device. */
export interface Code {
  digits: string;
  key: string;
  /** Seconds since 1970. */
  until: number;
}

const same = (a: string, b: string): boolean =>
  a.length === b.length && timingSafeEqual(Buffer.from(a), Buffer.from(b));

/** The code that pairs the next device: at most one at a time, for one device, for some minutes and a few attempts. */
export class Codes {
  private code: Code | null = null;
  private tries = 0;

  constructor(private readonly now: () => number = () => Date.now() / 1000) {}

  /** The current code, the same for everyone who shows it, or a new one if it is used up or about to expire. */
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

  /** Uses the code up. Throws an {@link HttpError} with the reason if it is not valid. */
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
