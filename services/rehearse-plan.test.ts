import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { readAnswers } from '../core/changes/index.js';
import { readDesign } from '../core/design/index.js';
import { rawRows } from '../engines/raw-rows.js';
import { dialectOf, type EngineName, type Engines, makeOn, openEngines } from '../tests/engines.js';
import { applying, copyForRehearsal, type OpenScratch, planDatabase, rehearsePlan, wishedSchema } from './index.js';

const NOW = '2031-04-12T09:00:00.000000Z';
const ENGINES: readonly EngineName[] = ['postgres', 'mariadb'];

let engines: Engines;
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(() => engines.close());

const TEXT = `tree 'Small'

choice Condition
  'mint'
  'worn'

entity Branch in branches
  id     integer key
  name   text(40) unique
  check named: name <> ''

entity Player in players
  id      integer key
  name    text(40)
  photo   bytes optional
  joined  timestamp
  worth   decimal(12, 4) optional
  state   Condition default 'mint'

relation home
  Player knows one Branch as branch
  Branch knows many Player as players

relation mentoring
  Player knows at most one Player as mentor
  Player knows many Player as pupils

sample Branch 8
sample Player 60
`;

const REQUIRED = TEXT.replace('worth   decimal(12, 4) optional', 'worth   decimal(12, 4)\n  motto   text(20)');

describe.each(ENGINES)('on %s', (name) => {
  const scratch: OpenScratch = async () => {
    const { engine, remove } = await engines.open(name);
    return { ok: true, value: { engine, remove } };
  };

  async function planned(text: string, answers: string) {
    const { database } = await makeOn(engines, name, TEXT);
    const { engine } = database;
    const design = readDesign(text, dialectOf(name));
    expect(design.findings.filter(({ weight }) => weight === 'error')).toEqual([]);
    const wished = await wishedSchema(design, scratch);
    if (!wished.ok) throw new Error(wished.problem.message);
    const madeAs = readDesign(TEXT, dialectOf(name)).schema;
    const request = { answers: readAnswers(answers).answers, wished: wished.value, now: NOW, schemas: null, madeAs };
    const plan = await planDatabase(design, engine, request);
    if (!plan.ok) throw new Error(plan.problem.message);
    expect(plan.value.plan.questions.map(({ sentence }) => sentence)).toEqual([]);
    return { database, engine, design, planned: plan.value };
  }

  const all = async (engine: Parameters<typeof rawRows>[0], sql: string) => {
    const rows = await rawRows(engine, sql);
    if (!rows.ok) throw new Error(rows.problem.message);
    return rows.value.map((row) => row.map(String));
  };

  test('a copy has all rows to the last bit, a plan is carried out on it, and the database is as it was', async () => {
    const {
      database,
      engine,
      design,
      planned: of,
    } = await planned(REQUIRED, "value players.worth = 0\nvalue players.motto = 'by hand'");
    const sql = 'select id, name, joined, state, branch_id, mentor_id from players order by id';
    const before = await all(engine, sql);
    const copy = await copyForRehearsal(engine, of.seen, scratch, { design, most: 1000 });
    if (!copy.ok) throw new Error(copy.problem.message);
    expect(copy.value.part).toBeNull();
    expect(await all(copy.value.scratch.engine, sql)).toEqual(before);
    const request = applying(of, { text: REQUIRED, name: 'a change', now: NOW, schemas: null });
    const rehearsal = await rehearsePlan(engine, copy.value.scratch, of, request, { design, retold: true });
    if (!rehearsal.ok) throw new Error(rehearsal.problem.message);
    expect(rehearsal.value.applied).toMatchObject({ kind: 'applied' });
    expect(rehearsal.value.tables).toMatchObject([{ before: 'players', rowsBefore: 60, rowsAfter: 60 }]);
    expect(rehearsal.value.tables[0]?.changed[0]?.after).toMatchObject({ motto: 'by hand' });
    expect(rehearsal.value.back.plain).toContain('motto');
    expect(rehearsal.value.back.noting).toContain('takes back a change');
    expect(await all(engine, sql)).toEqual(before);
    await database.remove();
  });

  test('of a large database a part is copied in which every key leads somewhere, and that is said', async () => {
    const {
      database,
      engine,
      design,
      planned: of,
    } = await planned(REQUIRED, "value players.worth = 0\nvalue players.motto = ''");
    const copy = await copyForRehearsal(engine, of.seen, scratch, { design, most: 20 });
    if (!copy.ok) throw new Error(copy.problem.message);
    expect(copy.value.part).toMatch(/^Rehearsed on \d\d of 68 rows/);
    const [[players = ''] = []] = await all(copy.value.scratch.engine, 'select count(*) from players');
    expect(Number(players)).toBeGreaterThanOrEqual(10);
    expect(Number(players)).toBeLessThan(60);
    const request = applying(of, { text: REQUIRED, name: 'a change', now: NOW, schemas: null });
    const rehearsal = await rehearsePlan(engine, copy.value.scratch, of, request, { design, retold: true });
    expect(rehearsal.ok && rehearsal.value.applied.kind).toBe('applied');
    await database.remove();
  });

  test('a copy that is stopped is taken away', async () => {
    const {
      database,
      engine,
      design,
      planned: of,
    } = await planned(REQUIRED, "value players.worth = 0\nvalue players.motto = ''");
    let removed = 0;
    const counted = (remove: () => Promise<void>) => () => {
      removed += 1;
      return remove();
    };
    const watched: OpenScratch = async (wanted) => {
      const made = await scratch(wanted);
      if (!made.ok) return made;
      return { ok: true, value: { ...made.value, remove: counted(made.value.remove) } };
    };
    const copy = await copyForRehearsal(engine, of.seen, watched, { design, most: 1000, signal: AbortSignal.abort() });
    expect(copy.ok).toBe(false);
    expect(removed).toBe(1);
    await database.remove();
  });
});
