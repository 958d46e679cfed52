import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { cardsOf } from '../core/cards/index.js';
import { type Design, readDesign } from '../core/design/index.js';
import { entityOf } from '../core/model/index.js';
import { runQuery } from '../services/index.js';
import { agree, type Compared, ENGINES, everything } from '../tests/agreement.js';
import { carriesOut, type Engines, makeOn, openEngines } from '../tests/engines.js';
import { wishedAndRead } from '../tests/read-back.js';
import type { Engine } from './index.js';
import { rawRows } from './raw-rows.js';

let engines: Engines;
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(() => engines.close());

const read = (name: string) => readFileSync(new URL(`../tests/${name}`, import.meta.url), 'utf8');

describe('a text with every form of relation and every way to store kinds', () => {
  test.each(['forms/forms.kin', 'forms/pairs.kin', 'forms/several.kin', 'apiary.kin'])(
    '%s is made, filled and loaded on all engines with one answer',
    async (name) => {
      const text = read(name);
      expect(ENGINES.filter((engine) => !carriesOut(engine, text))).toEqual([]);
      const design = readDesign(text);
      expect(design.findings.filter(({ weight }) => weight === 'error')).toEqual([]);
      const compared: Compared = { answers: 0, values: 0 };
      await agree(engines, text, everything({ design }), compared, { waysEach: 3 });
      expect(compared.answers).toBeGreaterThan(200);
    },
    600_000,
  );

  test.each(ENGINES)(
    '%s reads back what was made: tables, columns, keys, rules, indexes, triggers',
    async (name) => {
      for (const file of ['forms/forms.kin', 'forms/pairs.kin', 'forms/several.kin']) {
        const made = await makeOn(engines, name, read(file));
        const { wished, read: back } = await wishedAndRead(made);
        expect(back).toEqual(wished);
        await made.database.remove();
      }
    },
    600_000,
  );

  test.each(['forms/forms.kin', 'forms/several.kin'])(
    'the joins on the cards of %s run on every engine, give the same rows, and lose none of the entity that they begin with',
    async (file) => {
      const told = new Map<string, string>();
      for (const name of ENGINES) {
        const { design, database } = await makeOn(engines, name, read(file));
        for (const card of cardsOf(design)) {
          for (const [at, { from, sql }] of (card.kind === 'relation' ? card.joins : []).entries()) {
            const what = `${card.name} from ${from}, ${at}`;
            const joined = await rawRows(database.engine, sql, {});
            if (!joined.ok) throw new Error(`${name}, ${what}: ${joined.problem.message}\n${sql}`);
            const rows = joined.value.map((row) => row.map(String).join()).sort();
            const keys = entityOf(design.model, from).key.columns.length;
            const owners = new Set(joined.value.map((row) => row.slice(0, keys).map(String).join()));
            expect(owners.size, `${name}, ${what}`).toBe(await countOf(design, database.engine, from));
            const known = told.get(what) ?? rows.join('\n');
            told.set(what, known);
            expect(rows.join('\n'), `${name}, ${what}\n${sql}`).toBe(known);
          }
        }
        await database.remove();
      }
      expect(told.size).toBeGreaterThan(15);
    },
    600_000,
  );

  test('keys that need each other are kept when the transaction ends, where the engine can', async () => {
    const text = `entity Crown\n  id integer key\n\nentity Realm\n  id integer key\n\nrelation crowned\n  Crown knows one Realm as realm\n  Realm knows many Crown as crowns\n\nrelation ruled\n  Realm knows one Crown as crown\n  Crown knows many Realm as realms\n`;
    for (const name of ['sqlite', 'postgres', 'embedded'] as const) {
      const made = await makeOn(engines, name, text);
      expect(made.made.rows).toEqual({ crowns: 12, realms: 12 });
      expect(made.made.unsatisfied).toEqual([]);
      const { engine } = made.database;
      expect((await engine.execute(['insert into crowns (id, realm_id) values (77, 78)'])).ok).toBe(false);
      await made.database.remove();
    }
    expect(readDesign(text, 'mariadb').findings.map(({ weight, code }) => [weight, code])).toEqual([['error', 'required-loop']]);
  }, 600_000);
});

async function countOf(design: Design, engine: Engine, entity: string): Promise<number> {
  const query = { kind: 'text' as const, text: `from ${entity}\ncount`, parameters: [] };
  const outcome = await runQuery(design, engine, { query, parameters: {}, sampleKeys: {}, madeHere: true, rowLimit: 1 });
  if (!outcome.ok) throw new Error(outcome.problems.join());
  const [counted] = JSON.parse(outcome.answer.text) as { count: number }[];
  return counted?.count ?? 0;
}
