import { expect, test } from 'vitest';
import { readDesign } from '../design/index.js';
import { applied } from '../edits/index.js';
import { type RanQuery, warningsOn } from './index.js';

const TEXT = `entity Hall
  id     integer key
  name   text(80)
  plan   text
  photo  bytes optional

entity Concert
  id         integer key
  number     integer unique
  nickname   text(40) optional unique
  starts_at  timestamp
  order by starts_at

relation venue
  Concert knows one Hall as hall
  Hall knows many Concert as concerts
  stored in Concert.hall_id
`;

const design = readDesign(TEXT);

function warned(text: string, facts: Partial<RanQuery> = {}) {
  const { query, findings } = design.queryOf(text);
  if (query === null) throw new Error(findings.map(({ message }) => message).join('\n'));
  const { model, schema } = design;
  const log: RanQuery['log'] = [];
  return warningsOn({ model, schema, query, text, log, count: 0, rows: () => [], rowsOf: new Map(), tiedAtEdge: true, ...facts });
}

const scanning = (path: string, rows: number): Partial<RanQuery> => {
  const steps = [{ depth: 0, text: 'reads every row', mark: 'full scan' as const, expected: null, found: null }];
  const entry = {
    path,
    plain: '',
    sent: '',
    byColumns: true,
    parameters: [],
    times: 1,
    rows,
    cells: 0,
    bytes: 0,
    milliseconds: 1,
  };
  return { log: [{ ...entry, steps, span: null }], rowsOf: new Map([['Concert', rows]]) };
};

test('an order is total by a key, and by a unique field that is never empty; not by one that may be', () => {
  const loose = (order: string) => warned(`from Concert\n${order}limit 5`).map(({ code }) => code);
  expect(loose('order by starts_at, id\n')).toEqual([]);
  expect(loose('order by number desc\n')).toEqual([]);
  expect(loose('order by nickname\n')).toEqual(['loose-order']);
  expect(loose('order by hall.id\n')).toEqual(['loose-order']);
  // The entity's own order counts where the query has none.
  expect(loose('')).toEqual(['loose-order']);
});

test('long values that the page does not read are told with their size; those that it reads are not', () => {
  const rows = Array.from({ length: 10 }, (_, id) => ({ id, name: 'Ferren Hall', plan: 'x'.repeat(1000), photo: null }));
  const [warning, ...others] = warned('from Hall\nreads name', { count: 10, rows: () => rows });
  expect(warning).toMatchObject({ code: 'unread-value', evidence: '10 kB of 10 rows.' });
  expect(others).toEqual([]);
  expect(warned('from Hall\nreads name, plan', { count: 10, rows: () => rows })).toEqual([]);
  // A query that says nothing of its page may be read whole.
  expect(warned('from Hall', { count: 10, rows: () => rows })).toEqual([]);
});

test('no index is asked for of a small table, of one that is not read whole, or beside a condition that has one', () => {
  const codes = (text: string, facts: Partial<RanQuery>) => warned(text, facts).map(({ code }) => code);
  const between = "from Concert\nwhere nickname between 'a' and 'b'";
  expect(codes(between, scanning('', 5000))).toEqual([]);
  const hall = 'from Concert\nwhere hall is null or number = 3';
  expect(codes(hall, scanning('', 5000))).toEqual([]);
  const started = 'from Concert\nwhere starts_at < now';
  expect(codes(started, scanning('', 5000))).toEqual(['no-index']);
  expect(codes(started, scanning('', 50))).toEqual([]);
  expect(codes(started, { rowsOf: new Map([['Concert', 5000]]) })).toEqual([]);
  expect(codes(`${started} and number = 3`, scanning('', 5000))).toEqual([]);
});

test('a condition that a scope states is not mended in the query', () => {
  const scoped = readDesign(`${TEXT}\nscope used\n  Hall where count(concerts) > 0\n`);
  const { query } = scoped.queryOf('from Hall\nwhere used');
  if (query === null) throw new Error('the query has no answer');
  const { model, schema } = scoped;
  const ran = {
    model,
    schema,
    query,
    text: 'from Hall\nwhere used',
    log: [],
    count: 0,
    rows: () => [],
    rowsOf: new Map(),
    tiedAtEdge: null,
  };
  expect(warningsOn(ran)).toEqual([]);
});

test('a fix changes what it is about, whatever stands beside it', () => {
  const mended = (text: string, code: string, facts: Partial<RanQuery> = {}) => {
    const fix = warned(text, facts).find((one) => one.code === code)?.fix;
    return fix === undefined || fix === null ? null : applied(text, fix.edits);
  };
  const joined = "from Hall\nload concerts where nickname = 'stand by join' by join -- all\nlimit 2\norder by id";
  const rows = [
    { id: 1, concerts: [{ id: 1 }, { id: 2 }] },
    { id: 2, concerts: [] },
  ];
  expect(mended(joined, 'joined-limit', { count: 2, rows: () => rows })).toBe(
    "from Hall\nload concerts where nickname = 'stand by join' -- all\nlimit 2\norder by id",
  );
  expect(mended('from Hall\nwhere (count(concerts)) > 0', 'count-for-exists')).toBe('from Hall\nwhere any(concerts)');
  expect(mended("from Hall\nwhere name = 'a;b'", 'unlimited', { count: 5000 })).toBe("from Hall\nwhere name = 'a;b'\nlimit 50");
  expect(mended("from Hall; where name = 'a;b'", 'unlimited', { count: 5000 })).toBe("from Hall; where name = 'a;b'; limit 50");
});

test('a load over a key that no index begins with is told of, and the index is named by its role', () => {
  const stated = readDesign(`tree 'Halls'\n  tables as stated\n\n${TEXT}`);
  const text = 'from Hall\nload concerts';
  const { query } = stated.queryOf(text);
  if (query === null) throw new Error('the query has no answer');
  const facts = scanning('concerts', 5000);
  const { model, schema } = stated;
  const ran = {
    model,
    schema,
    query,
    text,
    count: 3,
    rows: () => [],
    tiedAtEdge: null,
    log: [],
    rowsOf: new Map<string, number>(),
    ...facts,
  };
  const [warning] = warningsOn(ran);
  expect(warning?.message).toBe(
    'The rows of load concerts are sought by hall_id, with which no index of concerts begins: all 5,000 rows are read. Add “index (hall)” to Concert.',
  );
  expect(applied(stated.text, warning?.fix?.edits ?? [])).toContain('entity Concert\n  index (hall)\n  id         integer key');
  // Where the tool makes the tables it makes an index for each key.
  expect(warned(text, facts)).toEqual([]);
});
