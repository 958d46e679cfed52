import fc from 'fast-check';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { readDesign } from '../core/design/index.js';
import { entityOf } from '../core/model/index.js';
import { type Computed, evaluate } from '../core/samples/index.js';
import { runQuery } from '../services/index.js';
import { ENGINES } from '../tests/agreement.js';
import { day, HEAD, price, ROWS, truth, whole, word } from '../tests/arbitrary-expressions.js';
import { type Engines, makeOn, openEngines } from '../tests/engines.js';

const CASES = Number(process.env.EXPRESSION_TREES ?? 4);
const FIELDS = 30;

let engines: Engines;
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(() => engines.close());

test('however operators are nested, what each engine reads is what the text says', async () => {
  const drawn = fc.array(fc.oneof(truth, truth, truth, whole, price, word, day), { minLength: FIELDS, maxLength: FIELDS });
  let values = 0;
  for (const [tree, expressions] of fc.sample(drawn, { numRuns: CASES, seed: 14 }).entries()) {
    const derived = expressions.map((expression, index) => `  e_${index} = ${expression}\n`).join('');
    const checks = expressions
      .flatMap((expression, index) => (expression.length < 400 ? [`  check c_${index}: (${expression}) is not null\n`] : []))
      .join('');
    // The same conditions stand in tables, too, where no row is held against them.
    const text = `${HEAD}${derived}\n${HEAD.slice(HEAD.indexOf('entity')).replace('Thing', 'Held')}${checks}${ROWS}\nsample Held 0\n`;
    const { model, findings } = readDesign(text);
    expect(findings.filter(({ weight }) => weight === 'error')).toEqual([]);
    const entity = entityOf(model, 'Thing');
    for (const name of ENGINES) {
      const { design, database, made } = await makeOn(engines, name, text);
      const outcome = await runQuery(design, database.engine, {
        query: { kind: 'text', text: 'from Thing', parameters: [] },
        parameters: {},
        sampleKeys: made.sampleKeys,
        madeHere: true,
        rowLimit: 10,
      });
      if (!outcome.ok)
        throw new Error(`${name}: ${outcome.problems.join()}${outcome.findings.map(({ message }) => message).join()}`);
      for (const row of JSON.parse(outcome.answer.text) as Record<string, Computed>[]) {
        const lookup = (field: string) => (field === 'fee' && row.fee !== null ? Number(row.fee) : (row[field] ?? null));
        for (const [index, { name: field, expression }] of entity.derived.entries()) {
          const expected = evaluate(expression, lookup, '');
          const given = expression.type.kind === 'decimal' && row[field] !== null ? Number(row[field]) : row[field];
          values += 1;
          if (expected !== given)
            throw new Error(
              `${name}, tree ${tree}, row ${row.id}: ${expressions[index]}\nis ${JSON.stringify(given)}, and means ${JSON.stringify(expected)}`,
            );
        }
      }
      await database.remove();
    }
  }
  expect(values).toBe(CASES * FIELDS * 4 * ENGINES.length);
}, 600_000);
