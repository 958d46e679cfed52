import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { parseParameters } from '../core/notation/index.js';
import { runQuery } from '../services/index.js';
import { ENGINES } from '../tests/agreement.js';
import { type Engines, makeOn, openEngines } from '../tests/engines.js';

let engines: Engines;
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(() => engines.close());

const TEXT = `entity Item
  id     integer key
  name   text
  large  bigint
  order by name

sample Item
  a: name 'a', large -9223372036854775808
  b: name 'b', large 9223372036854775807
`;

/** What a query gives, by key; or what a person is told. */
type Told = readonly number[] | RegExp;

const QUERIES: readonly [query: string, told: Told, parameters?: Readonly<Record<string, string>>][] = [
  ['order by -1', [1, 2]],
  ['order by 2', [1, 2]],
  ["order by 'x', name desc", [2, 1]],
  ['order by null', [1, 2]],
  ['order by 1 + 1, id desc', [2, 1]],
  ['limit 99999999999999999999', /no engine counts as far as this limit/],
  ['offset 99999999999999999999', /no engine counts as far as this offset/],
  ['limit 999999999999999999', [1, 2]],
  ['limit 0', []],
  ['limit :n', /n is how many rows there are to be: 0 or more/, { n: '-1' }],
  ['limit :n', /is no integer/, { n: '99999999999999999999' }],
  ['limit :n', [1], { n: '1' }],
  ['where abs(large) > 5', /computes a number beyond what it can hold/],
  ['where large + 1 > 5', /computes a number beyond what it can hold/],
  ["where name = 'a\0b'", /U\+0000/],
  ["where name like '%\0'", /U\+0000/],
];

test.each(QUERIES)(
  '%j is answered, or refused in words, on every engine alike',
  async (query, told, parameters) => {
    for (const name of ENGINES) {
      const { design, database } = await makeOn(engines, name, TEXT);
      const outcome = await runQuery(design, database.engine, {
        query: {
          kind: 'text',
          text: `from Item\n${query}`,
          parameters: parseParameters(parameters === undefined ? '' : 'n integer') ?? [],
        },
        parameters: parameters ?? {},
        sampleKeys: {},
        madeHere: true,
        rowLimit: 100,
      });
      if (told instanceof RegExp) {
        expect(outcome.ok, name).toBe(false);
        const said = outcome.ok ? '' : [...outcome.findings.map(({ message }) => message), ...outcome.problems].join('\n');
        expect(said, name).toMatch(told);
      } else {
        if (!outcome.ok)
          throw new Error(`${name}: ${[...outcome.findings.map(({ message }) => message), ...outcome.problems].join()}`);
        expect(
          (JSON.parse(outcome.answer.text) as { id: number }[]).map(({ id }) => id),
          name,
        ).toEqual(told);
      }
      await database.remove();
    }
  },
  600_000,
);
