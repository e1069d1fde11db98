/**
 * Header of requests that the server does not carry out twice if they bear the same key: an answer may be lost on the
 * way (The Idempotency-Key HTTP Header Field, IETF draft).
 */
export const KEY_HEADER = 'Idempotency-Key';
/** What a key looks like. */
export const IDEMPOTENCY_KEY = /^[\w-]{10,64}$/;
