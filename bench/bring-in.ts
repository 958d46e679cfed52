import Database from 'better-sqlite3';
import { readDesign } from '../core/design/index.js';
import { sqliteDialect } from '../core/dialects/index.js';
import { importSchema } from '../core/import/index.js';
import { loadRows, type Statement } from '../core/load/index.js';
import { planQuery } from '../core/plan/index.js';
import { drive } from '../engines/index.js';
import { introspect } from '../engines/sqlite/introspect.js';
import { preparedPlan } from '../tests/prepared.js';
import { medians } from './measure.js';

const TABLES = 500;

/** Bringing in 500 tables against reading the text that comes of it; and a load over keys of two parts against single ones. */
export function benchBringIn(): string[] {
  const db = new Database(':memory:');
  db.exec(Array.from({ length: TABLES }, (_, index) => tableSql(index)).join(';'));
  const existing = introspect(db);
  const { text } = importSchema(existing, 'Many');
  const { catalogue, told, read } = medians(
    { catalogue: () => introspect(db), told: () => importSchema(existing, 'Many'), read: () => readDesign(text) },
    5,
  );
  const { composite, single } = benchKeys();
  return [
    `bringing in 500 tables with 998 foreign keys: ${((catalogue + told) / read).toFixed(2)} × reading the text of them (${(catalogue + told).toFixed(0)} ms, of which the catalogue ${catalogue.toFixed(0)}, against ${read.toFixed(0)} ms)`,
    `a load of 2,000 × 10 over keys of two parts: ${(composite / single).toFixed(2)} × the same over single keys (${composite.toFixed(0)} ms against ${single.toFixed(0)} ms)`,
  ];
}

function tableSql(index: number): string {
  const keys = [
    `parent_id integer references thing_${Math.floor(index / 3)} (id)`,
    `other_id integer references thing_${index - 1} (id)`,
  ];
  return `create table thing_${index} (id integer primary key, name varchar(80) not null, made datetime${index === 0 ? '' : `, ${keys.join(', ')}`})`;
}

function benchKeys(): { composite: number; single: number } {
  const db = new Database(':memory:');
  db.exec(`
    create table halls (id integer primary key, site integer not null, number integer not null, name text);
    create table concerts (id integer primary key, hall_id integer not null references halls (id), title text);
    create index concerts_hall on concerts (hall_id);
    create table rooms (site integer not null, number integer not null, name text, primary key (site, number));
    create table talks (id integer primary key, site integer not null, number integer not null, title text, foreign key (site, number) references rooms (site, number));
    create index talks_room on talks (site, number);
    with recursive n(i) as (select 1 union all select i + 1 from n where i < 2000) insert into halls select i, i / 50, i % 50, 'Hall ' || i from n;
    insert into rooms select site, number, name from halls;
    with recursive n(i) as (select 0 union all select i + 1 from n where i < 19999) insert into concerts select i + 1, i / 10 + 1, 'Title ' || i from n;
    insert into talks select concerts.id, site, number, title from concerts join halls on halls.id = hall_id;
  `);
  const design = readDesign(importSchema(introspect(db), 'Keys').text);
  const load = (query: string) => {
    const resolved = design.queryOf(query).query;
    if (resolved === null) throw new Error(query);
    const prepared = preparedPlan(design, planQuery(design.model, resolved));
    return () => {
      const run = ({ sent, parameters }: Statement) => ({
        rows: db.prepare(sent).raw().all(parameters) as unknown[][],
        milliseconds: 0,
        steps: [],
        refused: null,
      });
      return drive(loadRows(sqliteDialect, { prepared, rowLimit: 1_000_000 }), run).rows;
    };
  };
  return medians({ composite: load('from Room\nload talks'), single: load('from Hall\nload concerts') }, 9);
}
