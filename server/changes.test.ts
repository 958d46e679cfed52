import { existsSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import * as v from 'valibot';
import { afterAll, beforeAll, expect, test } from 'vitest';
import {
  ChangesPlanned,
  DatabaseStands,
  DesignDatabase,
  DesignDatabases,
  PlanApplied,
  type PlanGoal,
  PlanRehearsed,
  Tree,
} from '../contract/index.js';
import { askServer } from '../tests/ask-server.js';
import { temporaryFolder } from '../tests/database.js';
import { type Serving, serve } from './index.js';

const folder = temporaryFolder();
const data = join(folder.path, 'data');
let serving: Serving;
const start = async () => {
  serving = await serve({
    data,
    host: '127.0.0.1',
    port: 0,
    token: null,
    uploadLimit: 2_000_000,
    quiet: true,
    folder: folder.path,
  });
};
beforeAll(start);
afterAll(async () => {
  await serving.close();
  folder.remove();
});
const ask = askServer(() => serving.port);

const BRANCHES = `tree 'Small'

entity Branch in branches
  id    integer key
  name  text(20)
  town  text optional
  shown as name

sample Branch
  north: name 'North', town 'Ferren'
  south: name 'South'
`;

const REQUIRED = BRANCHES.replace('town  text optional', 'town  text\n  slug  text(40)');

async function newTree(text = BRANCHES): Promise<Tree> {
  return v.parse(Tree, (await ask('POST', 'trees', { from: 'text', text })).body);
}

async function saved(tree: Tree, text: string): Promise<void> {
  const { revision } = v.parse(Tree, (await ask('GET', `trees/${tree.id}`)).body);
  expect((await ask('PUT', `trees/${tree.id}/text`, { text, basedOn: revision })).status).toBe(200);
}

async function made(tree: Tree, samples: boolean): Promise<DesignDatabase> {
  return v.parse(
    DesignDatabase,
    (await ask('POST', `trees/${tree.id}/databases`, { kind: 'file', label: 'local', samples })).body,
  );
}

const at = (tree: Tree, database: Pick<DesignDatabase, 'id'>) => `trees/${tree.id}/databases/${encodeURIComponent(database.id)}`;

async function planned(tree: Tree, database: Pick<DesignDatabase, 'id'>, goal: PlanGoal = 'text') {
  const { body } = await ask('POST', `${at(tree, database)}/plan`, { goal, agreed: [], powers: false });
  const plan = v.parse(ChangesPlanned, body);
  if (!plan.ok) throw new Error(plan.problem);
  return plan;
}

async function applied(tree: Tree, database: Pick<DesignDatabase, 'id'>, plan: string, more: object = {}): Promise<PlanApplied> {
  const wish = { plan, name: 'a change', allowLoss: false, typed: null, ...more };
  return v.parse(PlanApplied, (await ask('POST', `${at(tree, database)}/apply`, wish)).body);
}

async function answer(tree: Tree, answers: string, instead = ''): Promise<number> {
  return (await ask('PUT', `trees/${tree.id}/answers`, { answers, instead })).status;
}

async function stands(tree: Tree, database: DesignDatabase): Promise<DatabaseStands> {
  return v.parse(DatabaseStands, (await ask('GET', at(tree, database))).body);
}

test('a database that was just made from the text is as the text says, and its history begins with that', async () => {
  const tree = await newTree();
  const database = await made(tree, true);
  const plan = await planned(tree, database);
  expect(plan).toMatchObject({ changes: [], questions: [], operations: [], script: '' });
  expect(plan.history.map(({ name }) => name)).toEqual(['Made with the sample rows']);
  expect(await stands(tree, database)).toMatchObject({ ok: true, newest: { number: 1 }, revision: 1, isText: true, drift: [] });
});

test('what must be answered is asked, the answer is kept, and the plan is rehearsed, carried out and taken back', async () => {
  const tree = await newTree();
  const database = await made(tree, true);
  await saved(tree, REQUIRED);
  const asking = await planned(tree, database);
  expect(asking.operations).toEqual([]);
  expect(asking.changes.map(({ verdict }) => verdict)).toEqual(['needs an answer', 'needs an answer']);
  expect(await applied(tree, database, asking.plan)).toMatchObject({ kind: 'refused' });
  expect(asking.questions.map(({ rows, ways }) => [rows, ways[0]?.line])).toEqual([
    [1, 'value branches.town = …'],
    [2, 'value branches.slug = …'],
  ]);
  expect(await answer(tree, "value branches.town = 'none'\nvalue branches.slug = lower(name)\n")).toBe(200);
  const plan = await planned(tree, database);
  expect(plan.changes.map(({ verdict }) => verdict)).toEqual(['safe', 'safe']);
  expect(plan.script).toContain('begin immediate');
  const body = (await ask('POST', `${at(tree, database)}/rehearsal`, { plan: plan.plan })).body;
  const rehearsed = v.parse(PlanRehearsed, body);
  expect(rehearsed).toMatchObject({ kind: 'rehearsed', tables: [{ rowsBefore: 2, rowsAfter: 2 }], unheld: [] });
  if (rehearsed.kind !== 'rehearsed') return;
  expect(rehearsed.tables[0]?.changed[0]?.after).toMatchObject({ slug: 'north', town: 'Ferren' });
  expect(rehearsed.back).toContain('begin immediate');
  expect(await applied(tree, database, plan.plan)).toMatchObject({ kind: 'applied', number: 2 });
  const told = v.parse(DesignDatabases, (await ask('GET', `trees/${tree.id}/databases`)).body);
  expect(told).toMatchObject({
    databases: [{ label: 'local', typed: null, download: true }],
    answers: expect.stringContaining('slug'),
  });
  // The answers stay beside the text, for the next database, and ask nothing of this one.
  expect(await planned(tree, database)).toMatchObject({ changes: [], questions: [], faults: [] });
});

test('answers of another window are not written over', async () => {
  const tree = await newTree();
  expect(await answer(tree, 'column branches.a was b\n')).toBe(200);
  expect(await answer(tree, 'column branches.c was d\n')).toBe(409);
});

test('an empty file becomes the design', async () => {
  const tree = await newTree();
  const database = await made(tree, false);
  const plan = await planned(tree, database);
  expect(plan.changes).toMatchObject([{ kind: 'new', subject: 'table', verdict: 'safe' }]);
  expect(plan.entities).toEqual({ Branch: 'new' });
  const rehearsed = v.parse(PlanRehearsed, (await ask('POST', `${at(tree, database)}/rehearsal`, { plan: plan.plan })).body);
  expect(rehearsed).toMatchObject({ kind: 'rehearsed', tables: [{ after: 'branches', rowsAfter: 0 }], part: null });
  expect((await planned(tree, database)).history).toEqual([]);
  expect(await applied(tree, database, plan.plan)).toMatchObject({ kind: 'applied', number: 1 });
  expect((await planned(tree, database)).changes).toEqual([]);
  expect(readdirSync(data).filter((name) => name.includes('.scratch-') && name.includes('.plan-'))).toEqual([]);
});

test('what is lost is agreed to by name alone, and comes back', async () => {
  const tree = await newTree();
  const database = await made(tree, true);
  await saved(tree, BRANCHES.replace('  town  text optional\n', '').replaceAll(/, town '\w+'/g, ''));
  const plan = await planned(tree, database);
  expect(plan.changes).toMatchObject([{ verdict: 'loses data', rows: 1, lost: 1 }]);
  expect(await applied(tree, database, plan.plan)).toMatchObject({ kind: 'refused' });
  expect(await applied(tree, database, plan.plan, { allowLoss: true })).toMatchObject({ kind: 'applied', number: 2 });
  expect(await stands(tree, database)).toMatchObject({ newest: { number: 2, name: 'a change' }, isText: true });
  const undo = await planned(tree, database, 'before');
  expect(undo.undoes).toEqual({ number: 2, name: 'a change' });
  expect(await applied(tree, database, undo.plan)).toMatchObject({ kind: 'applied', number: 3 });
  const file = await fetch(`http://127.0.0.1:${serving.port}/api/${at(tree, database)}/file`);
  expect(file.status).toBe(200);
  expect(await stands(tree, database)).toMatchObject({ newest: { number: 3 }, isText: false, revision: 1 });
});

test('a plan is carried out on no other database than its own', async () => {
  const tree = await newTree();
  const [one, other] = [await made(tree, true), await made(tree, true)];
  await saved(tree, BRANCHES.replace('town  text optional', 'town  text optional\n  hall  text optional'));
  const plan = await planned(tree, one);
  expect(await applied(tree, other, plan.plan)).toMatchObject({ kind: 'refused' });
  expect((await planned(tree, other)).changes).toHaveLength(1);
  expect(await applied(tree, one, plan.plan)).toMatchObject({ kind: 'applied' });
});

test('a plan that the database moved away from is not carried out, and what moved is said', async () => {
  const tree = await newTree();
  const database = await made(tree, true);
  await saved(tree, BRANCHES.replace('town  text optional', 'town  text optional\n  hall  text optional'));
  const plan = await planned(tree, database);
  const files = readdirSync(data).filter((name) => /^[0-9a-f-]{36}\.db$/.test(name));
  const moved = files.map((name) => {
    const db = new Database(join(data, name));
    const tables = db.prepare("select name from sqlite_master where name = 'branches'").all();
    if (tables.length > 0) db.exec('create index by_town on branches (town)');
    db.close();
    return tables.length > 0;
  });
  expect(moved).toContain(true);
  const outcome = await applied(tree, database, plan.plan);
  expect(outcome.kind).toBe('moved');
  expect(outcome.kind === 'moved' ? outcome.differs.join('\n') : '').toContain('by_town');
  expect(await stands(tree, database)).toMatchObject({ drift: [expect.stringContaining('by_town')] });
});

test('a file that lies where it lies is copied beside itself before it is changed', async () => {
  const file = join(folder.path, 'lies.db');
  const db = new Database(file);
  db.exec(
    "create table branches (id integer primary key, name text(20) not null, town text); insert into branches values (1, 'N', 'F')",
  );
  db.close();
  const tree = await newTree(BRANCHES.split('\nsample')[0]);
  const use = { address: 'sqlite:lies.db', unlocked: false, password: null, keepPassword: false, label: '' };
  expect((await ask('PUT', `trees/${tree.id}/database`, use)).status).toBe(200);
  await saved(tree, `${BRANCHES.split('\nsample')[0]}\nentity Hall in halls\n  id  integer key\n`);
  const plan = await planned(tree, { id: 'in use' });
  expect(plan.changes.map(({ sentence }) => sentence).join(' ')).toContain('halls');
  const outcome = await applied(tree, { id: 'in use' }, plan.plan, { allowLoss: true });
  expect(outcome).toMatchObject({ kind: 'applied', before: `${file}.before-1` });
  expect(existsSync(`${file}.before-1`)).toBe(true);
});
