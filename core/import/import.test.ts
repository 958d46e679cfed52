import Database from 'better-sqlite3';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { introspect } from '../../engines/sqlite/introspect.js';
import { arbitraryDatabase } from '../../tests/arbitrary-database.js';
import { arbitraryTree } from '../../tests/arbitrary-tree.js';
import { catalogueOf } from '../../tests/catalogue.js';
import { readDesign } from '../design/index.js';
import { scriptOf, sqliteDialect } from '../dialects/index.js';
import { type Imported, importSchema } from './index.js';

function imported(sql: string): Imported {
  const db = new Database(':memory:');
  db.exec(sql);
  return importSchema(introspect(db), 'Shop');
}

describe('an existing database becomes a text that a person would have written', () => {
  const { text, kept, report } = imported(`
    create table user (id integer primary key, name varchar(80) not null, boss_id integer references user (id) on delete set null, created_by integer references user);
    create table user_cards (id integer primary key, user_id integer not null unique references user (id) on delete cascade, number text not null default 'x' unique);
    create table genres (id integer primary key, "order" integer, key text);
    create table user_genres (user_id integer not null references user, genre_id integer not null references genres, level integer default 1, primary key (user_id, genre_id));
    create table messages (id integer primary key, sender_id integer not null references user, receiver_id integer not null references user, at datetime default current_timestamp, check (sender_id <> receiver_id));
    create index by_time on messages (at);
    create table log (line text);
    create table prices (genre_id integer references genres, day date, price decimal(8,2), primary key (genre_id, day));
    create view everybody as select * from user;
  `);

  test('entities are singular and capitalised, with their table where it is not the plural', () => {
    expect(text).toContain('entity User in user\n');
    expect(text).toContain('entity UserCard\n');
    expect(text).toContain('entity Genre\n');
  });

  test('roles come from key columns, reverse roles from tables', () => {
    expect(text).toContain(
      'UserCard knows one User as user\n  User knows at most one UserCard as user_card\n  stored in UserCard.user_id\n  on delete cascade',
    );
    expect(text).toContain('User knows at most one User as created_by');
  });

  test('several relations to one entity are told apart by saying more', () => {
    expect(text).toContain('Message knows one User as sender\n  User knows many Message as sender_messages');
    expect(text).toContain('Message knows one User as receiver\n  User knows many Message as receiver_messages');
  });

  test('a table of pairs is a pivot with its own fields', () => {
    expect(text).toContain(
      'User knows many Genre as genres\n  Genre knows many User as users\n  stored in table user_genres (user_id, genre_id)\n    level  bigint optional default 1',
    );
  });

  test('names that the notation keeps for itself are quoted', () => {
    expect(text).toMatch(/"order" +bigint optional/);
    expect(text).toMatch(/"key" +text optional/);
  });

  test('what has no key is told apart by its row’s number', () => {
    expect(text).toContain('entity Log in log\n  line  text optional\n  key (rowid)');
  });

  test('a key of several columns is one, and relations stand beside it', () => {
    expect(text).toContain('  key (genre_id, day)');
    expect(text).toContain('Price knows at most one Genre as genre');
  });

  test('a check is a sentence where the notation can say it, and a view is kept', () => {
    expect(text).toContain('check sender_id_receiver_id_fits: sender_id <> receiver_id');
    expect(text).toContain("kept 'CREATE VIEW everybody as select * from user'");
    expect(kept).toEqual(['CREATE VIEW everybody.']);
    expect(report).toEqual([]);
  });

  test('the text has no error', () => {
    expect(readDesign(text).findings.filter((finding) => finding.weight === 'error')).toEqual([]);
  });
});

/** The database that a text makes, from the script that a shell would run. */
function madeOf(text: string): Database.Database {
  const design = readDesign(text);
  expect(design.findings.filter((finding) => finding.weight === 'error')).toEqual([]);
  const db = new Database(':memory:');
  db.exec(scriptOf(sqliteDialect, design.schema));
  return db;
}

test('whatever is made here is brought in whole, and the text of it is stable', () => {
  fc.assert(
    fc.property(arbitraryTree, (tree) => {
      const original = madeOf(tree);
      const { text, report } = importSchema(introspect(original), 'Back');
      expect(report).toEqual([]);
      const back = madeOf(text);
      expect(catalogueOf(back)).toEqual(catalogueOf(original));
      expect(importSchema(introspect(back), 'Back').text).toBe(text);
    }),
    { numRuns: 100, seed: 3 },
  );
}, 600_000);

test('a database with every feature of SQLite’s tables is written out again as it was', () => {
  let tables = 0;
  fc.assert(
    fc.property(arbitraryDatabase, (sql) => {
      const original = new Database(':memory:');
      try {
        original.exec(sql);
      } catch (error) {
        // Some wishes do not go together, as a generated column that is a key.
        if (!(error instanceof Database.SqliteError)) throw error;
        return;
      }
      const { text, report } = importSchema(introspect(original), 'Back');
      expect(report).toEqual([]);
      const back = madeOf(text);
      expect(catalogueOf(back)).toEqual(catalogueOf(original));
      expect(importSchema(introspect(back), 'Back').text).toBe(text);
      tables += original.prepare("select count(*) from sqlite_schema where type = 'table'").pluck().get() as number;
    }),
    { numRuns: 200, seed: 11 },
  );
  expect(tables).toBeGreaterThan(400);
}, 600_000);

describe('foreign keys of which a check says that one alone is filled', () => {
  const tables = (check: string) => `
    create table players (id integer primary key, name text not null);
    create table branches (id integer primary key, name text not null);
    create table photos (id integer primary key, path text not null, player_id integer references players (id) on delete cascade,
      branch_id integer references branches (id) on delete cascade${check});`;

  test.each([
    ['(player_id is not null) + (branch_id is not null) = 1', 'one'],
    ['(player_id is null) <> (branch_id is null)', 'one'],
    ['case when player_id is null then 0 else 1 end + case when "branch_id" is null then 0 else 1 end <= 1', 'at most one'],
  ])('are one relation to several: %s', (check, knows) => {
    const { text, report } = imported(tables(`, check (${check})`));
    expect(text).toContain(`Photo knows ${knows} Player | Branch as player_or_branch`);
    expect(text).toContain('stored in one of Photo.player_id, Photo.branch_id\n  on delete cascade');
    expect(report).toEqual([]);
    expect(readDesign(text).model.relations.get('photo_player')?.kind).toBe('polymorphic');
  });

  test.each(['', ', check (player_id is not null)', ', check (player_id is null or branch_id is null)'])(
    'stay relations of their own where nothing says so beyond doubt: %s',
    (check) => {
      const { text, report } = imported(tables(check));
      expect(text).not.toContain('one of');
      expect(text).toContain('Photo knows at most one Player as player');
      expect(report).toEqual([]);
    },
  );

  test('a key that is a foreign key, too, stays a one-to-one until a person says that it is a kind', () => {
    const { text } = imported(
      'create table spaces (id integer primary key); create table halls (id integer primary key references spaces (id), seats integer)',
    );
    expect(text).toContain('Space knows at most one Hall as hall');
    expect(text).not.toContain('kinds in');
  });
});
