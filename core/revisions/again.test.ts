import Database from 'better-sqlite3';
import { describe, expect, test } from 'vitest';
import { introspect } from '../../engines/sqlite/introspect.js';
import { readDesign } from '../design/index.js';
import { importSchema } from '../import/index.js';
import { bringAgain } from './index.js';

const FIRST = `
  create table branches (id integer primary key, name varchar(80) not null);
  create table players (id integer primary key, branch_id integer not null references branches (id), name varchar(120) not null, email varchar(255));
  create table cards (id integer primary key, player_id integer not null references players (id), number text);
`;

function existing(sql: string) {
  const db = new Database(':memory:');
  db.exec(sql);
  return introspect(db);
}

const before = existing(FIRST);
const text = importSchema(before, 'Library').text;

function again(mine: string, sql: string) {
  const result = bringAgain(mine, before, existing(sql));
  expect(readDesign(result.text).findings.filter((finding) => finding.weight === 'error')).toEqual([]);
  return result;
}

describe('bringing the same database in again', () => {
  test('changes nothing where nothing changed, whatever people wrote', () => {
    const mine = `${text.replace('email  ', 'email ').replace("tree 'Library'", "tree 'Ours'")}\nquery all_players\n  from Player\n`;
    expect(bringAgain(mine, before, before)).toEqual({ text: mine, changes: [] });
  });

  test('a new column, a wider one and one that is gone change their lines alone, and notes stay', () => {
    const mine = text.replace(/(email +text\(255\) optional)/, "$1 hidden note 'Asked for at the desk'  -- not shown");
    const sql = FIRST.replace('email varchar(255)', 'email varchar(320), phone varchar(40)').replace(', number text', '');
    const { text: next, changes } = again(mine, sql);
    expect(next).toMatch(/email +text\(320\) optional hidden note 'Asked for at the desk' +-- not shown/);
    expect(next).toMatch(/email.*\n +phone +text\(40\) optional\n/);
    expect(next).not.toContain('number');
    expect(changes.map(({ kind, where }) => `${kind} ${where}`).sort()).toEqual([
      'came entity Player',
      'changed entity Player',
      'went entity Card',
      // Its key column now ends the table, so that the relation alone says it.
      'went entity Card',
    ]);
  });

  test('it speaks with the names that the text has given', () => {
    const mine = text
      .replaceAll('Player', 'Member')
      .replace('entity Member', 'entity Member in players')
      .replace('as branch\n', 'as home\n')
      .replace(/email( +text)/, 'address$1')
      .replace(/(address +text\(255\) optional)/, '$1 column email');
    expect(readDesign(mine).findings.filter((finding) => finding.weight === 'error')).toEqual([]);
    const sql = `${FIRST.replace('email varchar(255)', 'email varchar(320)')} create table loans (id integer primary key, player_id integer references players (id));`;
    const { text: next } = again(mine, sql);
    expect(next).toMatch(/address +text\(320\) optional column email/);
    expect(next).toContain('Loan knows at most one Member as player');
    expect(next).toContain('Member knows one Branch as home');
  });

  test('a new table comes with its relations behind its like, and one that is gone goes', () => {
    const sql = `${FIRST.replace(/create table cards.*;/, '')} create table remarks (id integer primary key, player_id integer references players (id), body text);`;
    const { text: next, changes } = again(`${text}\nscope named\n  Player where name <> ''\n`, sql);
    expect(next).toContain('entity Remark');
    expect(next.indexOf('entity Remark')).toBeLessThan(next.indexOf('relation '));
    expect(next).not.toContain('Card');
    expect(next).toContain('scope named');
    expect(changes.map(({ kind, where }) => `${kind} ${where}`).sort()).toEqual([
      'came entity Remark',
      'came relation remark_player',
      'went entity Card',
      'went relation card_player',
    ]);
  });

  test('what a person changed in the same words is left, and told', () => {
    const mine = text.replace(/email( +)text\(255\)/, 'email$1text(100)');
    const { text: next, changes } = again(mine, FIRST.replace('email varchar(255)', 'email varchar(320)'));
    expect(next).toBe(mine);
    expect(changes).toMatchObject([{ kind: 'left', where: 'entity Player', why: 'you changed the same words' }]);
  });

  test('a table that is gone stays where the text has lines of one’s own below it', () => {
    const mine = text.replace(/(entity Card)/, "$1\n  note 'The paper ones'");
    const { text: next, changes } = again(mine, FIRST.replace(/create table cards.*;/, ''));
    expect(next).toContain('The paper ones');
    expect(changes).toMatchObject([
      { kind: 'left', where: 'entity Card' },
      { kind: 'went', where: 'relation card_player' },
    ]);
  });

  test('rules and indexes of tables change with them', () => {
    const sql = FIRST.replace('references branches (id)', 'references branches (id) on delete cascade').concat(
      'create index by_name on players (name);',
    );
    const { text: next } = again(text, sql);
    expect(next).toMatch(/stored in Player.branch_id\n {2}on delete cascade/);
    expect(next).toContain('index (name), named by_name');
  });
});
