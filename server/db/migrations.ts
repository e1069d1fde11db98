import type { Knex } from 'knex';
import { EARLY_MIGRATIONS } from './earlyMigrations';

/** Migrations, oldest first. A released one is never edited; a new one is appended. */
export const MIGRATIONS: (Knex.Migration & { name: string })[] = [
  ...EARLY_MIGRATIONS,
  {
    name: '011-kept',
    async up(db) {
      await db.schema.createTable('kept', (t) => {
        t.string('id').primary();
        t.string('clip_id').notNullable().references('clips.id').onDelete('CASCADE').index();
        t.string('name').notNullable();
        t.integer('frame').notNullable();
        // JSON: all steps applied to the frame, and the clip's own among them.
        t.text('steps').notNullable();
        t.text('own').notNullable();
        t.float('created_at').notNullable();
        t.float('removed_at').nullable();
      });
    },
    async down(db) {
      await db.schema.dropTable('kept');
    },
  },
  {
    name: '012-jobs-by-clip',
    async up(db) {
      // An outing's list queries for every clip whether it was exported.
      await db.schema.alterTable('jobs', (t) => void t.index(['clip_id']));
    },
    async down(db) {
      await db.schema.alterTable('jobs', (t) => void t.dropIndex(['clip_id']));
    },
  },
  {
    name: '013-folders',
    async up(db) {
      // Folders of the server's machine that are allowed as sources.
      await db.schema.createTable('folders', (t) => {
        t.string('id').primary();
        t.string('path').notNullable().unique();
      });
    },
    async down(db) {
      await db.schema.dropTable('folders');
    },
  },
  {
    name: '014-queue',
    async up(db) {
      // Jobs run in this order, which the user can change. `result`: JSON of what is known of a finished file.
      await db.schema.alterTable('jobs', (t) => {
        t.float('rank').nullable();
        t.text('result').nullable();
      });
      await db.raw('update jobs set rank = created_at');
      await db.schema.createTable('queue', (t) => {
        t.integer('id').primary();
        t.boolean('paused').notNullable().defaultTo(false);
      });
      await db('queue').insert({ id: 1, paused: false });
      // Named export settings; `body`: JSON of a delivery.
      await db.schema.createTable('presets', (t) => {
        t.string('id').primary();
        t.string('name').notNullable().unique();
        t.text('body').notNullable();
      });
    },
    async down(db) {
      await db.schema.dropTable('presets');
      await db.schema.dropTable('queue');
      for (const column of ['rank', 'result']) await db.raw(`alter table jobs drop column ${column}`);
    },
  },
  {
    name: '015-targets',
    async up(db) {
      // Whether finished files may be copied into a folder, and the folder to which all are copied.
      await db.schema.alterTable('folders', (t) => void t.boolean('writable').notNullable().defaultTo(false));
      await db.schema.alterTable('queue', (t) => void t.string('into').nullable());
    },
    async down(db) {
      await db.raw('alter table queue drop column "into"');
      await db.raw('alter table folders drop column writable');
    },
  },
  {
    name: '016-devices',
    async up(db) {
      // Paired devices, each identified by a secret whose hash is stored (SHA-256).
      await db.schema.createTable('devices', (t) => {
        t.string('id').primary();
        t.string('name').notNullable();
        t.string('secret_hash').notNullable().unique();
        t.float('joined_at').notNullable();
        t.float('seen_at').notNullable();
      });
      await db.schema.createTable('sharing', (t) => {
        t.integer('id').primary();
        t.boolean('on').notNullable().defaultTo(false);
        t.boolean('encrypted').notNullable().defaultTo(false);
      });
      await db('sharing').insert({ id: 1, on: false, encrypted: false });
    },
    async down(db) {
      await db.schema.dropTable('sharing');
      await db.schema.dropTable('devices');
    },
  },
  {
    name: '017-keyframes',
    async up(db) {
      // Indices of a file's keyframes in `times`, as a JSON list. Earlier files are probed again.
      await db.schema.alterTable('media', (t) => void t.text('keys').notNullable().defaultTo('[]'));
    },
    async down(db) {
      await db.raw('alter table media drop column keys');
    },
  },
  {
    name: '018-split-clips',
    async up(db) {
      // Several clips of an outing may be parts of one recording.
      await db.schema.alterTable('clips', (t) => void t.dropUnique(['outing_id', 'hash']));
    },
    async down(db) {
      await db.schema.alterTable('clips', (t) => void t.unique(['outing_id', 'hash']));
    },
  },
  {
    name: '019-file-names',
    async up(db) {
      // Original name of the recording: a clip may be renamed, or be a part of it.
      await db.schema.alterTable('clips', (t) => void t.string('file').notNullable().defaultTo(''));
      await db.raw('update clips set file = name');
    },
    async down(db) {
      await db.raw('alter table clips drop column file');
    },
  },
  {
    name: '020-job-pixels',
    async up(db) {
      // Pixels that a job decodes, for time estimates; null for jobs queued earlier.
      await db.schema.alterTable('jobs', (t) => void t.double('pixels').nullable());
    },
    async down(db) {
      await db.raw('alter table jobs drop column pixels');
    },
  },
  {
    name: '021-answers',
    async up(db) {
      // Answers to requests with an idempotency key, so that a repeated one is not carried out twice.
      await db.schema.createTable('answers', (t) => {
        t.string('key').primary();
        // SHA-256 of method, address and body.
        t.string('request').notNullable();
        t.integer('status').notNullable();
        // JSON; null: no body.
        t.text('body').nullable();
        t.double('at').notNullable().index();
      });
    },
    async down(db) {
      await db.schema.dropTable('answers');
    },
  },
];
