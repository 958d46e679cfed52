import fc from 'fast-check';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { postgresDialect } from '../core/dialects/index.js';
import { string } from '../core/sql/index.js';
import { type EmptyDatabase, type Engines, openEngines } from '../tests/engines.js';
import { rawRows } from './raw-rows.js';

let engines: Engines;
let database: EmptyDatabase;
beforeAll(async () => {
  engines = openEngines(inject('servers'));
  database = await engines.open('postgres');
  const made = await database.engine.execute([
    `create function takes(t text) returns boolean language plpgsql as $$
       begin perform t::jsonb; return true; exception when others then return false; end $$`,
  ]);
  if (!made.ok) throw new Error(made.problem.message);
});
afterAll(async () => {
  await database.remove();
  await engines.close();
});

const PIECES = String.raw`{ } [ ] , : "a" " 1 -0 01 .5 1e3 1e999 true nul null \u0000 "\ud800" "\ud83d\ude00" "\u00e9" é x`.split(
  ' ',
);

test('a text is JSON where PostgreSQL takes it for a column of JSON, and nowhere else', async () => {
  const broken = fc.array(fc.constantFrom(...PIECES, ' ', '\n', '\\', '\t', '\u0001', '\u0002'), { maxLength: 7 });
  const texts = [
    ...fc.sample(fc.json({ maxDepth: 6 }), { numRuns: 150, seed: 2 }),
    ...fc.sample(broken, { numRuns: 1500, seed: 3 }).map((pieces) => pieces.join('')),
    // What has an exponent of more digits is asked about rather than tried.
  ].filter((text) => !text.includes('\0') && !/e\d{5}/.test(text));
  const wrong: string[] = [];
  for (let from = 0; from < texts.length; from += 50) {
    const some = texts.slice(from, from + 50).map((text) => {
      const asked = postgresDialect.conversions.matches({ kind: 'json' }, string(text), string(text), postgresDialect.print);
      return asked === null
        ? '0'
        : `((${postgresDialect.print(asked)}) = takes(${postgresDialect.print(string(text))}))::integer`;
    });
    const read = await rawRows(database.engine, `select ${some.join(', ')}`);
    if (!read.ok) throw new Error(read.problem.message);
    wrong.push(...(read.value[0] ?? []).flatMap((same, at) => (Number(same) === 1 ? [] : [texts[from + at] ?? ''])));
  }
  expect(wrong).toEqual([]);
}, 240_000);
