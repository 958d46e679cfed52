import Database from 'better-sqlite3';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { type Design, readDesign } from '../core/design/index.js';
import { type Entity, hasTable } from '../core/model/index.js';
import { splitKey } from '../core/values/index.js';
import { VIEW_PREFIX } from '../core/views/index.js';
import { wallsAsScript } from '../services/index.js';
import { AUDITED_LIBRARY } from '../tests/audited-library.js';
import { makeTestDatabase } from '../tests/database.js';
import { type EngineName, type Engines, makeOn, openEngines } from '../tests/engines.js';
import { SEASON } from '../tests/season-tree.js';
import { keysSeen } from '../tests/seen-keys.js';
import { WALLED_LIBRARY } from '../tests/walled-library.js';

let engines: Engines;
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(() => engines.close());

/** The entities whose rows are those of a table that has a view, each with the columns of its key. */
function viewed(design: Design, statements: readonly string[]): readonly Entity[] {
  return Array.from(design.model.entities.values()).filter(
    (entity) =>
      hasTable(entity) &&
      statements.some((statement) => new RegExp(`view .?${VIEW_PREFIX}${entity.table.value.name}\\b`).test(statement)),
  );
}

function scriptOf(design: Design): readonly string[] {
  const made = wallsAsScript(design, 'views');
  if ('problem' in made) throw new Error(made.problem);
  expect(made.notes.length).toBeGreaterThan(3);
  return made.statements;
}

const ACTORS: readonly (readonly [string, string, readonly string[]])[] = [
  ['the library with every form', AUDITED_LIBRARY, ['Player(1)', 'Player(3)', 'Player(4)', 'nobody']],
  ['the season', SEASON, ["Member('ada')", "Member('cai')", 'nobody']],
  ['the library with walls on write', WALLED_LIBRARY, ['Player(1)', 'Player(4)', 'nobody']],
];

/** The key of whoever is at work, as a session says it. */
function keyOf(design: Design, as: string): string | null {
  const { actor } = design.actorOf(as);
  if (actor?.kind !== 'row' || actor.row.kind !== 'value') return null;
  return String(splitKey({ kind: 'text', length: null }, actor.row.value)[0] ?? actor.row.value);
}

test.each(ACTORS)(
  'in SQLite the views of %s show each actor what the walls let through',
  async (_, text, actors) => {
    const database = await makeTestDatabase(text);
    const db = new Database(database.path);
    try {
      const statements = scriptOf(database.design);
      for (const statement of statements) db.exec(statement);
      const entities = viewed(database.design, statements);
      expect(entities.length).toBeGreaterThan(2);
      for (const as of actors) {
        db.exec('delete from at_work');
        db.prepare('insert into at_work values (?)').run(keyOf(database.design, as));
        for (const entity of entities) {
          const rows = db
            .prepare(`select ${entity.key.columns.join(', ')} from ${VIEW_PREFIX}${entity.table.value.name}`)
            .raw()
            .all() as unknown[][];
          const keys = rows.map((row) => row.map(String).join('/')).sort();
          expect({ as, entity: entity.name, keys }).toEqual({
            as,
            entity: entity.name,
            keys: await keysSeen(database.design, database.engine, entity.name, as),
          });
        }
      }
    } finally {
      db.close();
      await database.close();
    }
  },
  60_000,
);

const SAYS: Readonly<Record<string, (key: string | null) => string>> = {
  postgres: (key) => `select set_config('at_work.key', '${key ?? ''}', false)`,
  mariadb: (key) => `set @at_work = ${key === null ? 'null' : `'${key}'`}`,
};

test.each((['postgres', 'mariadb'] as const).flatMap((name) => ACTORS.map((one) => [name, ...one] as const)))(
  'on %s the views of %s show each actor what the walls let through',
  async (name: EngineName, _, text, actors) => {
    const { design, database } = await makeOn(engines, name, text);
    const { engine } = database;
    try {
      const statements = scriptOf(design);
      const made = await engine.execute(statements);
      expect(made).toMatchObject({ ok: true });
      for (const [at, as] of actors.entries())
        for (const entity of viewed(design, statements)) {
          const table = entity.table.value.name;
          const columns = entity.key.columns.join(', ');
          // What a session says of itself holds for its own statements alone, so they stand in one.
          const kept = await engine.execute([
            SAYS[name]?.(keyOf(design, as)) ?? '',
            `create table kept_${at}_${table} as select ${columns} from ${VIEW_PREFIX}${table}`,
          ]);
          expect(kept).toMatchObject({ ok: true });
          const rows = await engine.ask(`select ${columns} from kept_${at}_${table}`);
          const keys = rows.ok ? rows.value.map((row) => row.map(String).join('/')).sort() : [];
          const seen = await keysSeen(design, engine, entity.name, as);
          expect({ as, entity: entity.name, keys }).toEqual({ as, entity: entity.name, keys: seen });
        }
    } finally {
      await database.remove();
    }
  },
  120_000,
);

test('what a view cannot say is said: who says who is at work, what is written, pins and queries that see over a wall', () => {
  const made = wallsAsScript(readDesign(AUDITED_LIBRARY, 'postgres'), 'views');
  if ('problem' in made) throw new Error(made.problem);
  const notes = made.notes.join('\n');
  expect(notes).toContain("set at_work.key = '…'");
  expect(notes).toContain('own_horns');
  expect(notes).toContain('own_branch');
  expect(notes).toContain('all_loans');
});

test('a text without walls, and a wall that asks what day it is, are no views', () => {
  expect(wallsAsScript(readDesign("tree 'None'\n\nentity Bow\n  id  integer key\n"), 'views')).toMatchObject({
    problem: 'The text has no wall.',
  });
  const timed = WALLED_LIBRARY.replace(
    '  Loan where borrower.branch = me.branch',
    '  Loan where fee < 5 and today > today - 1 day',
  );
  expect(wallsAsScript(readDesign(timed), 'views')).toMatchObject({ problem: expect.stringContaining('what day it is') });
});
