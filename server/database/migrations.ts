import type { Knex } from 'knex';

interface Migration {
  readonly name: string;
  up(db: Knex): Promise<void>;
  down(db: Knex): Promise<void>;
}

/** The columns every data table has beside its own. Keys of the model never begin with `_`, so they cannot collide. */
export function systemColumns(t: Knex.CreateTableBuilder): void {
  t.increments('id');
  t.integer('_revision').notNullable().defaultTo(1);
  t.text('_created_at');
  t.integer('_created_by');
  t.text('_changed_at');
  t.integer('_changed_by');
  t.text('_form');
  t.integer('_form_version');
}

/** All migrations, oldest first. A migration that has shipped is never edited; a new one is added. */
export const MIGRATIONS: readonly Migration[] = [
  {
    name: '0001_first',
    async up(db) {
      await db.schema.createTable('workspace', (t) => {
        t.text('key').primary();
        t.text('value').notNullable();
      });
      await db.schema.createTable('model_tables', (t) => {
        t.text('key').primary();
        t.text('label').notNullable();
        t.text('shown');
        t.integer('position').notNullable();
      });
      await db.schema.createTable('model_columns', (t) => {
        t.text('table_key').notNullable().references('key').inTable('model_tables').onDelete('CASCADE');
        t.text('key').notNullable();
        t.text('label').notNullable();
        t.text('type').notNullable();
        t.text('target').references('key').inTable('model_tables').onDelete('RESTRICT');
        t.integer('decimals');
        t.integer('length');
        t.integer('position').notNullable();
        t.primary(['table_key', 'key']);
      });
      await db.schema.createTable('data_people', (t) => {
        systemColumns(t);
        t.text('name');
        t.text('name__fold').index();
        t.text('email');
        t.text('email__fold').index();
        t.text('team');
        t.text('team__fold');
      });
      await db('model_tables').insert({ key: 'people', label: 'People', shown: 'name', position: 0 });
      await db('model_columns').insert(
        [
          ['name', 'Name'],
          ['email', 'E-mail'],
          ['team', 'Team'],
        ].map(([key, label], position) => ({ table_key: 'people', key, label, type: 'text', position })),
      );
      await db.schema.createTable('accounts', (t) => {
        t.increments('id');
        t.text('email').notNullable().unique();
        t.text('password_hash').notNullable();
        t.text('role').notNullable();
        t.integer('person_id').notNullable().unique().references('id').inTable('data_people').onDelete('RESTRICT');
        t.boolean('demo').notNullable().defaultTo(false);
      });
      await db.schema.createTable('forms', (t) => {
        t.text('key').primary();
        t.text('label').notNullable();
        t.text('table_key').notNullable().references('key').inTable('model_tables').onDelete('RESTRICT');
        t.text('draft').notNullable();
        t.integer('draft_revision').notNullable().defaultTo(1);
        t.text('changed_at').notNullable();
        t.integer('changed_by').references('id').inTable('accounts');
        t.integer('position').notNullable().defaultTo(0);
      });
      await db.schema.createTable('form_versions', (t) => {
        t.text('form_key').notNullable().references('key').inTable('forms').onDelete('RESTRICT');
        t.integer('number').notNullable();
        t.text('definition').notNullable();
        t.text('published_at').notNullable();
        t.integer('published_by').references('id').inTable('accounts');
        t.primary(['form_key', 'number']);
      });
      await db.schema.createTable('origins', (t) => {
        t.text('table_key').notNullable();
        t.integer('row_id').notNullable();
        t.text('origins').notNullable();
        t.primary(['table_key', 'row_id']);
      });
      await db.schema.createTable('history', (t) => {
        t.increments('id');
        t.text('table_key').notNullable();
        t.integer('row_id').notNullable();
        t.text('kind').notNullable();
        t.text('at').notNullable();
        t.integer('account_id').references('id').inTable('accounts');
        t.text('form_key');
        t.integer('form_version');
        t.text('changes').notNullable();
        t.index(['table_key', 'row_id']);
      });
      await db.schema.createTable('requests', (t) => {
        t.text('key').primary();
        t.integer('account_id').notNullable();
        t.text('answer').notNullable();
        t.text('at').notNullable();
      });
    },
    async down(db) {
      for (const table of [
        'requests',
        'history',
        'origins',
        'form_versions',
        'forms',
        'accounts',
        'data_people',
        'model_columns',
        'model_tables',
        'workspace',
      ]) {
        await db.schema.dropTable(table);
      }
    },
  },
  {
    name: '0002_option_lists',
    async up(db) {
      await db.schema.createTable('option_lists', (t) => {
        t.text('key').primary();
        t.text('label').notNullable();
        t.text('items').notNullable();
        t.integer('revision').notNullable().defaultTo(1);
        t.text('changed_at').notNullable();
        t.integer('changed_by').references('id').inTable('accounts');
      });
    },
    async down(db) {
      await db.schema.dropTable('option_lists');
    },
  },
  {
    name: '0003_subsets_feeds_files',
    async up(db) {
      await db.schema.createTable('subsets', (t) => {
        t.text('table_key').notNullable().references('key').inTable('model_tables').onDelete('CASCADE');
        t.text('key').notNullable();
        t.text('label').notNullable();
        t.text('condition').notNullable();
        t.integer('position').notNullable();
        t.primary(['table_key', 'key']);
      });
      await db.schema.createTable('feeds', (t) => {
        t.text('key').primary();
        t.text('label').notNullable();
        t.text('definition').notNullable();
        t.text('secrets').notNullable().defaultTo('{}');
        t.integer('revision').notNullable().defaultTo(1);
        t.text('changed_at').notNullable();
        t.integer('changed_by').references('id').inTable('accounts');
      });
      await db.schema.createTable('files', (t) => {
        t.increments('id');
        t.text('hash').notNullable().index();
        t.text('name').notNullable();
        t.text('kind').notNullable();
        t.integer('size').notNullable();
        t.text('at').notNullable();
        t.integer('account_id').references('id').inTable('accounts');
      });
    },
    async down(db) {
      for (const table of ['files', 'feeds', 'subsets']) await db.schema.dropTable(table);
    },
  },
  {
    name: '0004_series',
    async up(db) {
      await db.schema.createTable('series', (t) => {
        t.text('name').primary();
        t.integer('next').notNullable();
      });
    },
    async down(db) {
      await db.schema.dropTable('series');
    },
  },
  {
    name: '0005_backfills',
    async up(db) {
      await db.schema.createTable('backfills', (t) => {
        t.increments('id');
        t.text('form_key').notNullable().index();
        t.integer('form_version').notNullable();
        t.text('asked').notNullable();
        t.text('state').notNullable();
        t.integer('looked').notNullable().defaultTo(0);
        t.text('at').notNullable();
        t.integer('account_id').references('id').inTable('accounts');
        t.text('applied_at');
        t.text('undone_at');
      });
      // one record each: what it would get, what is written, what is in the way
      await db.schema.createTable('backfill_rows', (t) => {
        t.increments('id');
        t.integer('backfill_id').notNullable().references('id').inTable('backfills').onDelete('CASCADE');
        t.integer('row_id').notNullable();
        t.text('state').notNullable();
        t.integer('revision').notNullable();
        t.text('line_revisions').notNullable();
        t.text('given').notNullable();
        t.text('series').notNullable().defaultTo('[]');
        t.text('problem');
        t.index(['backfill_id', 'state', 'id']);
      });
      await db.schema.alterTable('history', (t) => {
        t.text('reason');
        t.text('origins').notNullable().defaultTo('{}');
      });
    },
    async down(db) {
      await db.schema.alterTable('history', (t) => {
        t.dropColumn('reason');
        t.dropColumn('origins');
      });
      await db.schema.dropTable('backfill_rows');
      await db.schema.dropTable('backfills');
    },
  },
  {
    name: '0006_sessions_requests',
    async up(db) {
      await db.schema.createTable('sessions', (t) => {
        // the hash of the token that the browser holds
        t.text('token').primary();
        t.integer('account_id').notNullable();
        t.text('fingerprint').notNullable();
        t.integer('began').notNullable();
        t.integer('used').notNullable();
      });
      // what a saved request was: of which form and with which body. Empty in those that were saved before this was kept.
      await db.schema.alterTable('requests', (t) => {
        t.text('form_key').notNullable().defaultTo('');
        t.text('body').notNullable().defaultTo('');
      });
    },
    async down(db) {
      await db.schema.alterTable('requests', (t) => {
        t.dropColumn('form_key');
        t.dropColumn('body');
      });
      await db.schema.dropTable('sessions');
    },
  },
  {
    name: '0007_repairs',
    async up(db) {
      // what was written over or merged when spellings were repaired, so that it can be put back
      await db.schema.createTable('repairs', (t) => {
        t.increments('id');
        t.text('table_key').notNullable();
        t.integer('account_id').notNullable();
        t.text('at').notNullable();
        t.text('undone_at');
        t.text('done').notNullable();
      });
    },
    async down(db) {
      await db.schema.dropTable('repairs');
    },
  },
  {
    name: '0008_people',
    async up(db) {
      await db.schema.alterTable('accounts', (t) => {
        t.text('roles').notNullable().defaultTo('[]');
        t.boolean('active').notNullable().defaultTo(true);
        t.text('kind').notNullable().defaultTo('person');
      });
      // a role is a word, so that it needs no escaping
      await db('accounts').update({ roles: db.raw(`'["' || role || '"]'`) });
      // one-time links, by the hash of what stands in them; without an account: the first administrator
      await db.schema.createTable('invites', (t) => {
        t.text('token').primary();
        t.integer('account_id').references('id').inTable('accounts').onDelete('CASCADE');
        t.integer('made').notNullable();
        t.integer('expires').notNullable();
        t.integer('made_by');
      });
      // what programs ask with
      await db.schema.createTable('tokens', (t) => {
        t.increments('id');
        t.text('token').notNullable().unique();
        t.integer('account_id').notNullable().references('id').inTable('accounts').onDelete('CASCADE');
        t.text('rights').notNullable();
        t.text('made_at').notNullable();
        t.integer('made_by');
        t.text('used_at');
      });
      await db.schema.alterTable('forms', (t) => {
        t.text('rights').notNullable().defaultTo('{}');
      });
    },
    async down(db) {
      await db.schema.alterTable('forms', (t) => t.dropColumn('rights'));
      await db.schema.dropTable('tokens');
      await db.schema.dropTable('invites');
      await db.schema.alterTable('accounts', (t) => {
        t.dropColumn('roles');
        t.dropColumn('active');
        t.dropColumn('kind');
      });
    },
  },
  {
    name: '0009_proving',
    async up(db) {
      await db.schema.alterTable('form_versions', (t) => {
        // what somebody wrote of a version when it was published
        t.text('note').notNullable().defaultTo('');
      });
      // what a draft was found to do to the records that exist, until somebody looks again
      await db.schema.createTable('impacts', (t) => {
        t.increments('id');
        t.text('form_key').notNullable();
        // the version it was compared with, null before the first; and the draft by its revision
        t.integer('version');
        t.integer('draft_revision').notNullable();
        t.text('fields').notNullable();
        t.integer('looked').notNullable().defaultTo(0);
        t.integer('milliseconds').notNullable().defaultTo(0);
        t.text('at').notNullable();
        t.integer('account_id');
        t.boolean('done').notNullable().defaultTo(false);
      });
      await db.schema.createTable('impact_rows', (t) => {
        t.increments('id');
        t.integer('impact_id').notNullable().references('id').inTable('impacts').onDelete('CASCADE');
        t.integer('row_id').notNullable();
        t.text('field').notNullable();
        t.text('kind').notNullable();
        t.text('found').notNullable();
        t.index(['impact_id', 'field', 'kind', 'id']);
      });
      // what must come of what is done in a form, and what a designer tries it with; both by name
      for (const [table, own] of [
        ['rehearsals', false],
        ['situations', true],
      ] as const)
        await db.schema.createTable(table, (t) => {
          t.increments('id');
          t.text('form_key').notNullable();
          t.text('label').notNullable();
          t.text('definition').notNullable();
          t.integer('position').notNullable().defaultTo(0);
          t.text('changed_at').notNullable();
          t.integer('changed_by');
          if (own) t.integer('account_id').notNullable();
          t.index(['form_key', 'position']);
        });
    },
    async down(db) {
      for (const table of ['situations', 'rehearsals', 'impact_rows', 'impacts']) await db.schema.dropTable(table);
      await db.schema.alterTable('form_versions', (t) => t.dropColumn('note'));
    },
  },
  {
    name: '0010_views',
    async up(db) {
      // how somebody looks at the records of a form, by name; shared ones are everybody's
      await db.schema.createTable('views', (t) => {
        t.increments('id');
        t.text('form_key').notNullable();
        t.text('label').notNullable();
        t.text('definition').notNullable();
        t.integer('account_id').notNullable();
        t.boolean('shared').notNullable().defaultTo(false);
        t.boolean('usual').notNullable().defaultTo(false);
        t.text('changed_at').notNullable();
        t.index(['form_key', 'account_id']);
      });
    },
    async down(db) {
      await db.schema.dropTable('views');
    },
  },
  {
    name: '0011_gave',
    async up(db) {
      // what fills would have given where a person decided otherwise, by column; null where that was not noted
      await db.schema.alterTable('history', (t) => {
        t.text('gave');
        // the saves by a form, in their order
        t.index(['form_key']);
      });
    },
    async down(db) {
      await db.schema.alterTable('history', (t) => {
        t.dropIndex(['form_key']);
        t.dropColumn('gave');
      });
    },
  },
  {
    name: '0012_entry_counts',
    async up(db) {
      // how forms are entered, in counts; who entered is not in it
      await db.schema.createTable('entry_counts', (t) => {
        t.text('form_key').notNullable().references('key').inTable('forms').onDelete('CASCADE');
        t.integer('version').notNullable();
        t.text('field').notNullable();
        t.text('what').notNullable();
        t.text('value').notNullable();
        t.integer('count').notNullable();
        t.primary(['form_key', 'version', 'field', 'what', 'value']);
      });
    },
    async down(db) {
      await db.schema.dropTable('entry_counts');
    },
  },
  {
    name: '0013_changes',
    async up(db) {
      // how often each table was written, so that processes beside each other know when what they keep is no longer so
      await db.schema.createTable('changes', (t) => {
        t.text('name').primary();
        t.integer('number').notNullable();
      });
    },
    async down(db) {
      await db.schema.dropTable('changes');
    },
  },
  {
    name: '0014_requests_at',
    async up(db) {
      // those that are old are forgotten, without looking through all of them
      await db.schema.alterTable('requests', (t) => t.index(['at']));
    },
    async down(db) {
      await db.schema.alterTable('requests', (t) => t.dropIndex(['at']));
    },
  },
];
