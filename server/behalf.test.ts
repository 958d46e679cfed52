import { join } from 'node:path';
import * as v from 'valibot';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import {
  CommandsDone,
  Counts,
  EntityCounts,
  ImpactTold,
  Reach,
  RowChoices,
  RowsAnswer,
  RowsBeside,
  RunResult,
  Tree,
  Why,
} from '../contract/index.js';
import { askServer } from '../tests/ask-server.js';
import { temporaryFolder } from '../tests/database.js';
import { WALLED_LIBRARY } from '../tests/walled-library.js';
import { type Serving, serve } from './index.js';

const folder = temporaryFolder();
let serving: Serving;
let tree: Tree;
const ask = askServer(() => serving.port);
beforeAll(async () => {
  serving = await serve({
    data: join(folder.path, 'data'),
    host: '127.0.0.1',
    port: 0,
    token: null,
    uploadLimit: 2_000_000,
    quiet: true,
  });
  tree = v.parse(Tree, (await ask('POST', 'trees', { from: 'text', text: WALLED_LIBRARY })).body);
}, 120_000);
afterAll(async () => {
  await serving.close();
  folder.remove();
});

const INES = 'as=Player(1)';
const at = (path: string, as = '') => `trees/${tree.id}/${path}${as === '' ? '' : `?${as}`}`;
const rowsOf = async (entity: string, as = '', where = '') => {
  const body = { entity, where, orderBy: '', via: null, from: 0, count: 100 };
  return v.parse(RowsAnswer, (await ask('POST', at('rows', as), body)).body);
};
const many = async (entity: string, as = '') => {
  const answer = await rowsOf(entity, as);
  return answer.ok ? answer.total : answer.problems;
};

describe('on whose behalf a call is made stands in its address', () => {
  test('for rows, their filters and their counts', async () => {
    expect([await many('Loan'), await many('Loan', INES), await many('Loan', 'as=nobody')]).toEqual([3, 2, 0]);
    expect(await rowsOf('Player', INES, 'any(loans[player_id = 3])')).toMatchObject({ ok: true, total: 0 });
    const counted = async (as: string) =>
      v.parse(Counts, (await ask('POST', at('counts', as), { entity: 'Loan', keys: [1, 3] })).body);
    // A key that was typed tells nothing of what a hidden row knows.
    expect(Object.keys((await counted('')).counts.remarks ?? {})).toEqual(['1', '3']);
    expect(Object.keys((await counted(INES)).counts.remarks ?? {})).toEqual(['1']);
    const remarks = await rowsOf('Remark', INES);
    expect(remarks.ok ? remarks.rows.map(({ loan }) => (loan as { hidden?: boolean }).hidden ?? false) : []).toEqual([
      false,
      false,
      true,
    ]);
    const { rows } = v.parse(EntityCounts, (await ask('GET', at('counts', INES))).body);
    expect(rows).toMatchObject({ Player: 2, Loan: 2, Remark: 3, Branch: 2 });
    const known = v.parse(Counts, (await ask('POST', at('counts', INES), { entity: 'Branch', keys: [1, 2] })).body);
    expect(known.counts.players).toEqual({ 1: 2 });
  });

  test('for what is offered to choose from', async () => {
    const offered = async (as = '') => v.parse(RowChoices, (await ask('GET', at('choices/Player', as))).body).rows.length;
    expect([await offered(), await offered(INES), await offered('as=nobody')]).toEqual([4, 2, 0]);
  });

  test('for a query, and never for plain SQL', async () => {
    const run = async (query: object, as = '') =>
      v.parse(RunResult, (await ask('POST', at('run', as), { query, parameters: {} })).body);
    const loans = { kind: 'text', text: 'from Loan', head: '' };
    expect(await run(loans, INES)).toMatchObject({ ok: true, rows: 2 });
    expect(await run({ kind: 'sql', text: 'select * from loans' }, INES)).toMatchObject({
      ok: false,
      problems: ['Plain SQL goes round every wall: it is asked by the system alone.'],
    });
  });

  test('for what a delete reaches, and for commands', async () => {
    const reached = v.parse(ImpactTold, (await ask('POST', at('impact', INES), { rows: 'Player(3)' })).body);
    expect(reached).toMatchObject({ ok: true, rows: [], groups: [] });
    const done = async (text: string) => v.parse(CommandsDone, (await ask('POST', at('do', INES), { text })).body);
    expect(await done('update Loan(3) with fee 5')).toMatchObject({
      ok: false,
      problems: [expect.stringContaining('no such row')],
    });
    expect(await done('update Loan(1) with fee 5')).toMatchObject({ ok: true });
  });

  test('and whoever cannot be at work is told', async () => {
    expect(await many('Loan', 'as=Player(99)')).toEqual(['There is no such Player: nobody can work as that row.']);
    expect(await many('Loan', 'as=Branch(1)')).toEqual([expect.stringContaining('whoever is at work is a row of Player')]);
    expect(await many('Loan', `as=${'x'.repeat(200)}`)).toEqual([expect.any(String)]);
    expect(
      (
        await ask('POST', at('rows', `as=${'x'.repeat(12_000)}`), {
          entity: 'Loan',
          where: '',
          orderBy: '',
          via: null,
          from: 0,
          count: 1,
        })
      ).status,
    ).toBe(413);
  });
});

test('commands that somebody did are done again on their behalf when the rows are made anew', async () => {
  const text = `${WALLED_LIBRARY}\nentity Shelf\n  id integer key\n`;
  await ask('PUT', at('text'), { text, basedOn: tree.revision });
  const answer = await rowsOf('Loan', '', 'fee = 5');
  expect(answer).toMatchObject({ ok: true, total: 1 });
});

test('who reaches what, and why, is told outside of all walls', async () => {
  const reach = v.parse(Reach, (await ask('GET', at('reach', INES))).body);
  expect(reach.ok ? reach.actors.map(({ shown }) => shown) : []).toEqual(['nobody', 'Ines', 'Guard']);
  const why = async (row: string) => v.parse(Why, (await ask('POST', at('why'), { row, as: 'Player(1)' })).body);
  expect(await why('Loan(3)')).toMatchObject({
    ok: true,
    there: true,
    seen: false,
    changed: false,
    walls: [{ name: 'own_branch' }],
  });
  expect(await why('Remark(2)')).toMatchObject({
    ok: true,
    seen: true,
    changed: false,
    walls: [{ name: 'own_remarks', reads: false }],
  });
  expect(await why('Loan')).toMatchObject({ ok: false });
});

test('the rows that two find are held against each other: who alone sees which, and which are not alike for them', async () => {
  const beside = async (entity: string, one: string, other: string, where = '') => {
    const asked = { entity, where, orderBy: '', via: null, one, other };
    return v.parse(RowsBeside, (await ask('POST', at('rows/beside'), asked)).body);
  };
  const told = await beside('Loan', 'Player(1)', 'system');
  if (!told.ok) throw new Error(told.problem);
  const seen = (as: string) => rowsOf('Loan', as);
  const [one, all] = [await seen(INES), await seen('')];
  if (!one.ok || !all.ok) throw new Error('no rows');
  expect({ both: told.both, onlyOne: told.onlyOne, onlyOther: told.onlyOther }).toEqual({
    both: one.total,
    onlyOne: 0,
    onlyOther: all.total - one.total,
  });
  expect(told.onlyOther).toBeGreaterThan(0);
  expect(told.rows.slice(0, told.onlyOther).every((row) => row.other && !row.one)).toBe(true);
  expect(await beside('Loan', 'Player(1)', 'Player(1)')).toMatchObject({ onlyOne: 0, onlyOther: 0 });
  expect(await beside('Loan', 'Player(1)', 'system', 'fee >')).toMatchObject({ ok: false });
  expect(await beside('Loan', 'Player(1)', 'Player(9999)')).toMatchObject({
    ok: false,
    problem: expect.stringContaining('no such Player'),
  });
});
