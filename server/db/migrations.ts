import type { Knex } from 'knex';

const REMOVABLE_TABLES = ['outings', 'cameras', 'clips', 'jobs'];

/** Migrations, oldest first. A released one is never edited; a new one is appended. */
export const MIGRATIONS: (Knex.Migration & { name: string })[] = [
  {
    name: '001-outings-clips-jobs',
    async up(db) {
      await db.schema.createTable('outings', (t) => {
        t.string('id').primary();
        t.string('name').notNullable();
        t.string('place').notNullable().defaultTo('');
        t.string('date').notNullable();
        t.text('steps').notNullable().defaultTo('[]');
        t.integer('revision').notNullable().defaultTo(0);
      });
      await db.schema.createTable('cameras', (t) => {
        t.string('id').primary();
        t.string('outing_id').notNullable().references('outings.id').onDelete('CASCADE');
        t.string('name').notNullable();
        t.string('kind').notNullable();
        t.text('steps').notNullable().defaultTo('[]');
        t.integer('revision').notNullable().defaultTo(0);
        t.unique(['outing_id', 'name']);
      });
      await db.schema.createTable('media', (t) => {
        t.string('hash').primary();
        t.bigInteger('bytes').notNullable();
        t.text('facts').notNullable();
        // Time stamps of all frames, seconds, as a JSON list.
        t.text('times').notNullable();
        t.string('proxy').notNullable().defaultTo('waiting');
      });
      await db.schema.createTable('clips', (t) => {
        t.string('id').primary();
        t.string('outing_id').notNullable().references('outings.id').onDelete('CASCADE').index();
        t.string('camera_id').notNullable().references('cameras.id');
        t.string('hash').notNullable().references('media.hash');
        t.string('name').notNullable();
        t.float('position').notNullable();
        t.integer('in_frame').notNullable();
        t.integer('out_frame').notNullable();
        t.integer('reference_frame').notNullable();
        t.text('steps').notNullable();
        t.integer('revision').notNullable().defaultTo(0);
        t.boolean('removed').notNullable().defaultTo(false);
        t.unique(['outing_id', 'hash']);
      });
      await db.schema.createTable('jobs', (t) => {
        t.string('id').primary();
        t.string('kind').notNullable();
        t.string('state').notNullable().index();
        t.string('title').notNullable();
        t.string('outing_id').nullable();
        t.string('clip_id').nullable();
        t.text('payload').notNullable();
        t.float('progress').notNullable().defaultTo(0);
        t.text('message').nullable();
        t.string('file_name').nullable().unique();
        t.bigInteger('file_bytes').nullable();
        t.integer('attempts').notNullable().defaultTo(0);
        t.float('created_at').notNullable();
      });
    },
    async down(db) {
      for (const table of ['jobs', 'clips', 'media', 'cameras', 'outings']) await db.schema.dropTable(table);
    },
  },
  {
    name: '002-luts',
    async up(db) {
      await db.schema.createTable('luts', (t) => {
        t.string('id').primary();
        t.string('title').notNullable();
        t.string('note').notNullable();
        t.float('created_at').notNullable();
      });
    },
    async down(db) {
      await db.schema.dropTable('luts');
    },
  },
  {
    name: '003-overrides',
    async up(db) {
      await db.schema.alterTable('clips', (t) => void t.text('overrides').notNullable().defaultTo('{}'));
    },
    async down(db) {
      await db.schema.alterTable('clips', (t) => void t.dropColumn('overrides'));
    },
  },
  {
    name: '004-dive',
    async up(db) {
      await db.schema.alterTable('clips', (t) => void t.text('dive'));
    },
    async down(db) {
      await db.schema.alterTable('clips', (t) => void t.dropColumn('dive'));
    },
  },
  {
    name: '005-settings',
    async up(db) {
      await db.schema.alterTable('cameras', (t) => void t.string('setting'));
    },
    async down(db) {
      await db.schema.alterTable('cameras', (t) => void t.dropColumn('setting'));
    },
  },
  {
    name: '006-changes',
    async up(db) {
      // Stored changes of steps: a retry is answered without being stored again.
      await db.schema.createTable('changes', (t) => {
        t.string('id').primary();
        t.string('clip_id').notNullable().references('clips.id').onDelete('CASCADE');
        t.float('stored_at').notNullable().index();
      });
    },
    async down(db) {
      await db.schema.dropTable('changes');
    },
  },
  {
    name: '007-removed',
    async up(db) {
      // Seconds since 1970 at which it was removed; deleted permanently some days later.
      for (const table of REMOVABLE_TABLES)
        await db.schema.alterTable(table, (t) => void t.float('removed_at').nullable());
      await db('clips')
        .where({ removed: true })
        .update({ removed_at: Date.now() / 1000 });
      // The schema builder would recreate the table, and references to it would be lost.
      await db.raw('alter table clips drop column removed');
    },
    async down(db) {
      await db.schema.alterTable('clips', (t) => void t.boolean('removed').notNullable().defaultTo(false));
      await db('clips').whereNotNull('removed_at').update({ removed: true });
      for (const table of REMOVABLE_TABLES) await db.raw(`alter table ${table} drop column removed_at`);
    },
  },
  {
    name: '008-shelf',
    async up(db) {
      // Tables, recipes and profiles. `body`: JSON of a recipe's steps, or of a profile.
      await db.schema.createTable('shelf', (t) => {
        t.string('id').primary();
        t.string('kind').notNullable();
        t.string('title').notNullable();
        t.string('note').notNullable().defaultTo('');
        t.string('shelf_group').notNullable().defaultTo('');
        t.string('role').notNullable().defaultTo('look');
        t.text('body').nullable();
        t.float('created_at').notNullable();
        t.float('removed_at').nullable();
      });
      await db.raw(
        "insert into shelf (id, kind, title, note, created_at) select id, 'lut', title, note, created_at from luts",
      );
      await db.schema.dropTable('luts');
    },
    async down(db) {
      await db.schema.createTable('luts', (t) => {
        t.string('id').primary();
        t.string('title').notNullable();
        t.string('note').notNullable();
        t.float('created_at').notNullable();
      });
      await db.raw(
        "insert into luts (id, title, note, created_at) select id, title, note, created_at from shelf where kind = 'lut'",
      );
      await db.schema.dropTable('shelf');
    },
  },
  {
    name: '009-checked',
    async up(db) {
      await db.schema.alterTable('clips', (t) => void t.boolean('checked').notNullable().defaultTo(false));
    },
    async down(db) {
      await db.raw('alter table clips drop column checked');
    },
  },
  {
    name: '010-retime',
    async up(db) {
      // JSON; null: as recorded.
      await db.schema.alterTable('clips', (t) => void t.text('retime').nullable());
    },
    async down(db) {
      await db.raw('alter table clips drop column retime');
    },
  },
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
