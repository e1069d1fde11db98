import type { Knex } from 'knex';

/** A stored answer; `request`: fingerprint of the request it answers. */
export interface StoredAnswer {
  request: string;
  status: number;
  /** JSON; null: no body. */
  body: string | null;
}

/** A page repeats a lost request within minutes. */
const KEPT_SECONDS = 86_400;
const FORGET_EVERY_SECONDS = 3600;
const seconds = (): number => Date.now() / 1000;

/** Answers to requests with an idempotency key, kept for a day. */
export class AnswerStore {
  private forgotten = 0;

  constructor(private readonly db: Knex) {}

  find(key: string): Promise<StoredAnswer | undefined> {
    return this.db<StoredAnswer & { key: string }>('answers').where({ key }).first('request', 'status', 'body');
  }

  async keep(key: string, answer: StoredAnswer): Promise<void> {
    const at = seconds();
    if (at - this.forgotten > FORGET_EVERY_SECONDS) {
      this.forgotten = at;
      await this.db('answers')
        .where('at', '<', at - KEPT_SECONDS)
        .delete();
    }
    await this.db('answers').insert({ key, at, ...answer });
  }
}
