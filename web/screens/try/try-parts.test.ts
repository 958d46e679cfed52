import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import type { RunResult } from '../../../contract/index.js';
import { beside } from './beside.js';
import { compare } from './compare.js';
import { remember, triedOf } from './tried.js';

type Answered = Extract<RunResult, { ok: true }>;

const answer = (rows: readonly object[], statements = 1, entity = 'Loan'): Answered => ({
  ok: true,
  entity,
  cardinality: 'many',
  flat: false,
  loads: false,
  text: JSON.stringify(rows),
  rows: rows.length,
  page: false,
  total: null,
  log: Array.from({ length: statements }, () => ({
    path: '',
    plain: 'select 1',
    byColumns: true,
    sent: 'select 1',
    parameters: [],
    rows: rows.length,
    times: 1,
    cells: 2,
    bytes: 20,
    milliseconds: 2,
    span: null,
    steps: [],
  })),
  cuts: [],
  warnings: [],
  revision: 1,
});

const id = () => ['id'];

describe('two runs compared', () => {
  test('with the same answer say so, whatever they cost', () => {
    const rows = [{ id: 1 }, { id: 2 }];
    expect(compare(answer(rows, 201), answer(rows, 2), id)).toEqual({
      statements: [201, 2],
      rows: [402, 4],
      milliseconds: [402, 4],
      answer: { kind: 'same' },
    });
  });

  test('tell rows that came, went and changed apart by their keys', () => {
    const outcome = compare(
      answer([
        { id: 1, a: 1 },
        { id: 2, a: 1 },
      ]),
      answer([
        { id: 2, a: 9 },
        { id: 3, a: 1 },
      ]),
      id,
    );
    expect(outcome.answer).toEqual({ kind: 'differs', came: 1, went: 1, changed: 1, moved: false });
  });

  test('see when only the order is another', () => {
    expect(compare(answer([{ id: 1 }, { id: 2 }]), answer([{ id: 2 }, { id: 1 }]), id).answer).toEqual({
      kind: 'differs',
      came: 0,
      went: 0,
      changed: 0,
      moved: true,
    });
  });

  test('of different entities are not compared row by row', () => {
    expect(compare(answer([{ id: 1 }]), answer([{ id: 1 }], 1, 'Player'), id).answer).toMatchObject({ kind: 'same' });
    expect(compare(answer([{ id: 1 }]), answer([{ id: 2 }], 1, 'Player'), id).answer).toEqual({ kind: 'other entity' });
  });
});

describe('what was tried', () => {
  beforeEach(() => {
    const kept = new Map<string, string>();
    vi.stubGlobal('localStorage', {
      getItem: (name: string) => kept.get(name) ?? null,
      setItem: (name: string, value: string) => kept.set(name, value),
    });
  });
  afterEach(() => vi.unstubAllGlobals());

  const run = (text: string) => ({ text, head: '', values: {}, at: 1, outcome: '3 rows' });

  test('is remembered, the latest first, each query once', () => {
    for (const text of ['a', 'b', 'a']) remember('t', run(text));
    expect(triedOf('t').map(({ text }) => text)).toEqual(['a', 'b']);
    expect(triedOf('other')).toEqual([]);
  });

  test('is bounded, and survives what is no list', () => {
    for (let index = 0; index < 60; index++) remember('t', run(String(index)));
    expect(triedOf('t').length).toBe(40);
    localStorage.setItem('family-tree.tried.t', '{"broken":');
    expect(triedOf('t')).toEqual([]);
  });
});

describe('one query as two actors', () => {
  const loan = { keyFields: ['id'], keyType: { kind: 'integer' } as const, shownField: 'memo' };

  test('each row is seen by one, the other or both, and where both see it, alike or not', () => {
    const one = answer([
      { id: 2, memo: 'lute', borrower: { id: 1 } },
      { id: 1, memo: 'drum' },
    ]);
    const other = answer([
      { id: 3, memo: 'horn' },
      { id: 2, memo: 'lute', borrower: { hidden: true } },
    ]);
    expect(beside(one, other, loan)).toEqual([
      { key: 2, shown: 'lute', one: true, other: true, differs: true },
      { key: 1, shown: 'drum', one: true, other: false, differs: false },
      { key: 3, shown: 'horn', one: false, other: true, differs: false },
    ]);
  });

  test('lines of no rows are told apart by what they say, and by how often', () => {
    const seen = beside(answer([{ n: 1 }, { n: 1 }, { n: 4 }]), answer([{ n: 1 }, { n: 5 }]), null);
    expect(seen.map(({ shown, one, other }) => [shown, one, other])).toEqual([
      ['1', true, true],
      ['1', true, false],
      ['4', true, false],
      ['5', false, true],
    ]);
  });

  test('a key of several parts is one by which a text can name the row', () => {
    const seat = {
      keyFields: ['row', 'place'],
      keyType: { kind: 'composite', parts: [{ kind: 'integer' }, { kind: 'integer' }] } as const,
      shownField: null,
    };
    const [row] = beside(answer([{ row: 1, place: 2 }]), answer([]), seat);
    expect(row).toMatchObject({ one: true, other: false, shown: '' });
    expect(String(row?.key)).toContain('2');
  });
});
