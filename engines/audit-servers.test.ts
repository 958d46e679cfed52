import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { waysTried } from '../core/audit/index.js';
import { readDesign } from '../core/design/index.js';
import { namedKeys } from '../core/samples/index.js';
import { type AuditState, auditWalls } from '../services/index.js';
import { AUDITED_LIBRARY } from '../tests/audited-library.js';
import { type EngineName, type Engines, makeOn, openEngines } from '../tests/engines.js';
import { SEASON } from '../tests/season-tree.js';

const NOW = '2031-04-12T09:00:00.000000Z';

let engines: Engines;
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(() => engines.close());

async function auditedOn(name: EngineName, text: string): Promise<AuditState> {
  const { design, database } = await makeOn(engines, name, text);
  try {
    const { engine } = database;
    const lookedAt = { design, engine, sampleKeys: namedKeys(design.model, NOW), madeHere: true };
    return await auditWalls(lookedAt, { engine, schemas: null }, { now: NOW });
  } finally {
    await database.remove();
  }
}

test.each<[EngineName, string]>([
  ['postgres', AUDITED_LIBRARY],
  ['mariadb', AUDITED_LIBRARY],
  ['mariadb', SEASON],
])(
  'on %s nothing gets round walls that hold, and nothing is left out',
  async (name, text) => {
    const state = await auditedOn(name, text);
    // What not even the system could do says nothing of walls, and is told as not tried.
    const untried = state.untried.filter(({ why }) => !why.startsWith('Not even the system'));
    expect([state.leaks, state.holes, untried]).toEqual([[], [], []]);
    expect(state.writes).toBe(true);
    expect(waysTried(state).tried).toBeGreaterThan(900);
  },
  300_000,
);

test('what could not be taken back is not tried: commands, where a table is kept without transactions', async () => {
  const database = await engines.open('mariadb');
  const { engine } = database;
  try {
    const made = await engine.execute([
      'create table players (id integer primary key, name varchar(40) not null) engine=MyISAM',
      "insert into players values (1, 'Ines'), (2, 'Teo')",
    ]);
    expect(made.ok).toBe(true);
    const text = `tree 'Kept at once'\n  actor Player\n  dialect mariadb\n\nentity Player in players\n  id    integer key\n  name  text(40)\n\nwall own on write\n  Player where id = me.id\n`;
    const design = readDesign(text, 'mariadb');
    const lookedAt = { design, engine, sampleKeys: {}, madeHere: false };
    const state = await auditWalls(lookedAt, { engine, schemas: null }, { now: NOW });
    expect(state.writes).toBe(false);
    expect(state.untried.map(({ why }) => why)).toEqual([
      'players is kept without transactions, for all that is known: what commands write there could not be taken back.',
    ]);
    const rows = await engine.ask('select id, name from players order by id');
    expect(rows.ok && rows.value).toEqual([
      [1, 'Ines'],
      [2, 'Teo'],
    ]);
  } finally {
    await database.remove();
  }
}, 120_000);
