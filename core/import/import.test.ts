import Database from 'better-sqlite3';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { introspect } from '../../engines/sqlite/introspect.js';
import { arbitraryTree } from '../../tests/arbitrary-tree.js';
import { readDesign } from '../design/index.js';
import { scriptOf, sqliteDialect } from '../dialects/index.js';
import { importSchema } from './index.js';

function imported(sql: string): { text: string; report: readonly string[] } {
  const db = new Database(':memory:');
  db.exec(sql);
  const { schema, others } = introspect(db);
  return importSchema(schema, 'Shop', others);
}

describe('an existing database becomes a text that a person would have written', () => {
  const { text, report } = imported(`
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

  test('what is not said is in the report', () => {
    expect(report).toContain('log: left out, since it has no key to tell its rows apart.');
    expect(report).toContain('messages: check (sender_id <> receiver_id) is not carried.');
    expect(report).toContain('view everybody: not carried.');
    expect(report.some((line) => line.startsWith('prices: its key has several columns'))).toBe(true);
  });

  test('the text has no error', () => {
    expect(readDesign(text).findings.filter((finding) => finding.weight === 'error')).toEqual([]);
  });
});

test('whatever is made here comes back with its tables, columns, keys and foreign keys', () => {
  fc.assert(
    fc.property(arbitraryTree, (tree) => {
      const { schema } = readDesign(tree);
      const { text } = importSchema(schema, 'Back');
      const back = readDesign(text);
      expect(back.findings.filter((finding) => finding.weight === 'error')).toEqual([]);
      const outline = (tables: typeof schema.tables) =>
        tables
          .map((table) => ({
            name: table.name.name,
            columns: table.columns.map((column) => column.name).sort(),
            key: table.primaryKey.columns,
            points: table.foreignKeys.map((key) => `${key.columns} → ${key.table} ${key.onDelete}`).sort(),
          }))
          .sort((a, b) => (a.name < b.name ? -1 : 1));
      expect(outline(back.schema.tables)).toEqual(outline(schema.tables));
      expect(importSchema(schema, 'Back').text).toBe(text);
      const db = new Database(':memory:');
      db.exec(scriptOf(sqliteDialect, back.schema));
      db.close();
    }),
    { numRuns: 150, seed: 3 },
  );
});
