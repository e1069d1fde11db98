import type { Knex } from 'knex';

const REMOVABLE_TABLES = ['outings', 'cameras', 'clips', 'jobs'];

/** The first ten migrations, oldest first. */
export const EARLY_MIGRATIONS: (Knex.Migration & { name: string })[] = [
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
];
