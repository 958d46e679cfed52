import fc from 'fast-check';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { readDesign } from '../core/design/index.js';
import { entityOf } from '../core/model/index.js';
import { column } from '../core/sql/index.js';
import { type Aggregate, aggregateType, type Wire } from '../core/values/index.js';
import { agree, type Compared, ENGINES, everything } from '../tests/agreement.js';
import { arbitraryTree } from '../tests/arbitrary-tree.js';
import { type EngineName, type Engines, makeOn, openEngines } from '../tests/engines.js';
import { HURTING, HURTING_QUERIES } from '../tests/hurting-values.js';
import { preparedQuery } from '../tests/prepared.js';

const CASES = 8;

let engines: Engines;
const compared: Compared = { answers: 0, values: 0 };
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(async () => {
  await engines.close();
  process.stdout.write(`Compared between ${ENGINES.join(', ')}: ${compared.answers} answers, ${compared.values} values\n`);
});

test('every engine gives the same answers to the last digit, on values chosen to hurt', async () => {
  const { findings, queryOf } = readDesign(HURTING);
  expect(findings.filter(({ weight }) => weight === 'error')).toEqual([]);
  // A question that no engine can answer would be answered alike by all.
  expect(HURTING_QUERIES.filter((query) => queryOf(query).query === null)).toEqual([]);
  await agree(engines, HURTING, HURTING_QUERIES, compared);
  // What loads is asked in four other ways too, on each engine.
  const loads = HURTING_QUERIES.filter((query) => /^load /m.test(query)).length;
  expect(compared.answers).toBe((HURTING_QUERIES.length + loads * 4) * ENGINES.length);
}, 600_000);

const AGGREGATES: readonly Aggregate[] = ['sum', 'avg', 'min', 'max'];

/** Every aggregate of every field that has one, over some rows of the values chosen to hurt, in wire form. */
async function aggregatesOn(name: EngineName, where: string): Promise<Record<string, Wire>> {
  const { design, database } = await makeOn(engines, name, HURTING);
  const { values } = design.dialect;
  const entity = entityOf(design.model, 'Item');
  const prepared = preparedQuery(design, `from Item\nwhere ${where}`);
  const { select } = prepared.compiled;
  const wanted = entity.fields.flatMap((field) =>
    AGGREGATES.flatMap((aggregate) => {
      const type = aggregateType(aggregate, field.type);
      const sql = column(select.from.alias, field.column.value);
      return type === null
        ? []
        : [{ as: `${aggregate}_${field.name}`, type, expression: values.aggregate(aggregate, { sql, type: field.type }) }];
    }),
  );
  const compiled = {
    ...prepared.compiled,
    select: { ...select, columns: wanted.map(({ as, expression }) => ({ as, expression })), orderBy: [] },
    outputs: wanted.map(({ as, type }) => ({ as, type, name: as, pivot: null, parts: null, kinds: null })),
  };
  const fetched = await database.engine.run('stored rows', [{ prepared: { ...prepared, compiled }, keys: null, rowLimit: 1 }]);
  await database.remove();
  if (!fetched.ok) throw new Error(`${name}: ${fetched.problem.message}`);
  const cells = wanted.map(({ as }, index): [string, Wire] => {
    const value = fetched.value[0]?.[index]?.[0] ?? null;
    return [as, typeof value === 'number' && !Number.isInteger(value) ? Number(value.toPrecision(12)) : value];
  });
  return Object.fromEntries(cells);
}

test('every engine aggregates alike: a sum of whole numbers has 64 bits, a mean is real, nothing aggregated is null', async () => {
  const some = await aggregatesOn('sqlite', 'id between 4 and 12');
  expect(some).toMatchObject({
    sum_small: '100005',
    min_name: '',
    max_name: '🎵',
    min_on: '1900-02-28',
    sum_price: '1234572.05',
  });
  const none = await aggregatesOn('sqlite', 'id = 0');
  expect(new Set(Object.values(none))).toEqual(new Set([null]));
  for (const name of ['postgres', 'embedded', 'mariadb'] as const) {
    expect(await aggregatesOn(name, 'id between 4 and 12')).toEqual(some);
    expect(await aggregatesOn(name, 'id = 0')).toEqual(none);
  }
}, 600_000);

test('for any model, every engine reads back what was made, keeps the same rows, and gives the same answers over every role', async () => {
  await fc.assert(
    fc.asyncProperty(arbitraryTree, (text) =>
      agree(engines, text, everything({ design: readDesign(text) }), compared, { waysEach: 3 }),
    ),
    { numRuns: CASES, seed: 31, endOnFailure: true },
  );
}, 600_000);
