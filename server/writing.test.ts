import { readdirSync, readFileSync, rmSync, statSync } from 'node:fs';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import * as v from 'valibot';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import {
  BroughtInTree,
  CommandsDone,
  type DatabaseState,
  ImpactTold,
  RowChoices,
  RunResult,
  Tree,
  TreeEvent,
} from '../contract/index.js';
import { askServer } from '../tests/ask-server.js';
import { temporaryFolder } from '../tests/database.js';
import { type Serving, serve } from './index.js';

const folder = temporaryFolder();
let serving: Serving;
const start = async () => {
  serving = await serve({
    data: join(folder.path, 'data'),
    host: '127.0.0.1',
    port: 0,
    token: null,
    uploadLimit: 2_000_000,
    quiet: true,
  });
};
beforeAll(start);
afterAll(async () => {
  await serving.close();
  folder.remove();
});
const ask = askServer(() => serving.port);

const LIBRARY = `tree 'Small'

entity Branch in branches
  id    integer key
  name  text(20) unique message 'There is one of this name'
  town  text optional
  shown as name

entity Shelf in shelves
  id  uuid key
  label text

relation standing
  Shelf knows one Branch as branch
  Branch knows many Shelf as shelves

sample Branch
  north: name 'North', town 'Ferren'
sample Shelf 0
`;

async function newTree(text = LIBRARY): Promise<Tree> {
  return v.parse(Tree, (await ask('POST', 'trees', { from: 'text', text })).body);
}

async function write(tree: Tree, text: string): Promise<CommandsDone> {
  return v.parse(CommandsDone, (await ask('POST', `trees/${tree.id}/do`, { text })).body);
}

async function names(tree: Tree, of = 'Branch', field = 'name'): Promise<unknown> {
  const run = { query: { kind: 'text', text: `from ${of}\nshow ${field}\norder by ${field}`, head: '' }, parameters: {} };
  const answer = v.parse(RunResult, (await ask('POST', `trees/${tree.id}/run`, run)).body);
  return answer.ok ? (JSON.parse(answer.text) as Record<string, unknown>[]).map((row) => row[field]) : answer.problems;
}

/** What was written into a tree's database, once it is ready. */
async function writtenIn(tree: Tree): Promise<Extract<DatabaseState, { status: 'ready' }>['written']> {
  const stop = new AbortController();
  const events = await fetch(`http://127.0.0.1:${serving.port}/api/trees/${tree.id}/events`, { signal: stop.signal });
  const reader = events.body?.getReader();
  try {
    for (;;) {
      const { value, done } = (await reader?.read()) ?? { value: undefined, done: true };
      if (done) throw new Error('the events ended');
      for (const line of Buffer.from(value ?? [])
        .toString()
        .split('\n')) {
        if (!line.startsWith('data: ')) continue;
        const event = v.parse(TreeEvent, JSON.parse(line.slice(6)));
        if (event.kind === 'database' && event.state.status === 'ready') return event.state.written;
      }
    }
  } finally {
    stop.abort();
  }
}

async function takeBack(tree: Tree, commands: number | undefined): Promise<number> {
  return (await fetch(`http://127.0.0.1:${serving.port}/api/trees/${tree.id}/written/${commands}`, { method: 'DELETE' })).status;
}

test('what was carried out is there whenever the rows are made anew: after a change of the text, and another start', async () => {
  const tree = await newTree();
  expect(await write(tree, "x = create Branch with name 'South'; create Shelf with label 'A', branch Branch(x)")).toMatchObject({
    ok: true,
  });
  expect(await write(tree, "update Branch[name = 'South'] with name 'West'")).toMatchObject({ ok: true });
  const refused = await write(tree, "create Branch with name 'East'\ncreate Branch with name 'West'");
  expect(refused).toMatchObject({ ok: false, problems: [expect.stringContaining('There is one of this name')] });
  expect(await names(tree)).toEqual(['North', 'West']);
  const [shelf] = (await names(tree, 'Shelf', 'id')) as string[];

  await ask('PUT', `trees/${tree.id}/text`, { text: LIBRARY.replace("'North'", "'Nord'"), basedOn: 1 });
  expect(await names(tree)).toEqual(['Nord', 'West']);
  await serving.close();
  await start();
  expect(await names(tree)).toEqual(['Nord', 'West']);
  // A key that was made up is the same each time, so that commands after it still find the row.
  expect(await names(tree, 'Shelf', 'id')).toEqual([shelf]);
  expect((await writtenIn(tree)).map(({ unfit }) => unfit)).toEqual([null, null]);
});

test('it is taken back the newest first; what no longer fits is told with its reason, kept, and can be let go of', async () => {
  const tree = await newTree();
  await write(tree, "create Branch with name 'South', town 'Mill'");
  await write(tree, "update Branch[name = 'South'] with name 'West'");
  const [first, second] = await writtenIn(tree);
  expect(await takeBack(tree, first?.id)).toBe(409);
  expect(await takeBack(tree, second?.id)).toBe(204);
  expect(await takeBack(tree, second?.id)).toBe(409);
  expect(await names(tree)).toEqual(['North', 'South']);
  const other = LIBRARY.replace('town  text', 'place text').replace("town 'Ferren'", "place 'Ferren'");
  await ask('PUT', `trees/${tree.id}/text`, { text: other, basedOn: 1 });
  expect(await names(tree)).toEqual(['North']);
  await write(tree, "create Branch with name 'East'");
  expect(await writtenIn(tree)).toMatchObject([{ id: first?.id, unfit: expect.stringContaining('town') }, { unfit: null }]);
  expect(await takeBack(tree, first?.id)).toBe(204);
  expect(await names(tree)).toEqual(['East', 'North']);
  expect(await writtenIn(tree)).toMatchObject([{ unfit: null }]);
  expect((await fetch(`http://127.0.0.1:${serving.port}/api/trees/none/written/1`, { method: 'DELETE' })).status).toBe(404);
});

test('commands that come while the rows are made anew are written into those, and none is lost or done twice', async () => {
  const tree = await newTree();
  const writes = Array.from({ length: 6 }, (_, at) => write(tree, `create Branch with name 'B${at}'`));
  await ask('PUT', `trees/${tree.id}/text`, { text: LIBRARY.replace("'Small'", "'Smaller'"), basedOn: 1 });
  const more = Array.from({ length: 3 }, (_, at) => write(tree, `create Branch with name 'C${at}'`));
  for (const one of await Promise.all([...writes, ...more])) expect(one).toMatchObject({ ok: true });
  const all = ['B0', 'B1', 'B2', 'B3', 'B4', 'B5', 'C0', 'C1', 'C2', 'North'];
  await writtenIn(tree);
  expect(await names(tree)).toEqual(all);
});

describe('in a database that was brought in', () => {
  const path = join(folder.path, 'shop.db');
  const bringIn = async (): Promise<Tree> => {
    rmSync(path, { force: true });
    const made = new Database(path);
    made.exec(`
      create table branches (id integer primary key, name text unique not null);
      create table cases (id integer primary key, branch_id integer not null references branches on delete cascade, weight real);
      insert into branches values (1, 'North'), (2, 'South');
      insert into cases values (1, 1, 0.1), (2, 1, 1e300), (3, 2, null);`);
    made.close();
    const answer = await fetch(`http://127.0.0.1:${serving.port}/api/databases?name=shop.db`, {
      method: 'POST',
      headers: { 'content-type': 'application/octet-stream' },
      body: readFileSync(path),
    });
    return v.parse(BroughtInTree, await answer.json()).tree;
  };
  const rows = (tree: Tree) => Promise.all([names(tree, 'Branch'), names(tree, 'Case', 'weight')]);

  test('rows are written, and put back with all that a delete took along, also after another start', async () => {
    const tree = await bringIn();
    const before = await rows(tree);
    expect(await write(tree, "update Branch(2) with name 'West'")).toMatchObject({ ok: true });
    const deleted = await write(tree, 'delete Branch(1)');
    expect(deleted).toMatchObject({ ok: true, along: [{ of: 'Case', rows: 2 }] });
    expect(deleted).not.toHaveProperty('undo');
    expect(await rows(tree)).toEqual([['West'], [null]]);
    await serving.close();
    await start();
    const [first, second] = await writtenIn(tree);
    expect(await takeBack(tree, first?.id)).toBe(409);
    expect(await takeBack(tree, second?.id)).toBe(204);
    expect(await rows(tree)).toEqual([['North', 'West'], before[1]]);
    expect(await takeBack(tree, first?.id)).toBe(204);
    expect(await rows(tree)).toEqual(before);
    expect(await writtenIn(tree)).toEqual([]);
  });

  test('what others have changed since is told, and stays as it is', async () => {
    const tree = await bringIn();
    expect(await write(tree, "update Branch(2) with name 'West'; create Branch with name 'East'")).toMatchObject({ ok: true });
    const [first] = await writtenIn(tree);
    const data = join(folder.path, 'data');
    const files = readdirSync(data).filter((name) => /^[0-9a-f-]{36}\.db$/.test(name));
    const [file = ''] = files.toSorted((one, two) => statSync(join(data, two)).ctimeMs - statSync(join(data, one)).ctimeMs);
    const other = new Database(join(data, file));
    other.exec("update branches set name = 'Wester' where id = 2");
    const answer = await fetch(`http://127.0.0.1:${serving.port}/api/trees/${tree.id}/written/${first?.id}`, {
      method: 'DELETE',
    });
    expect(await answer.json()).toEqual({ message: 'Others have changed these rows since: branches(2).' });
    other.exec("update branches set name = 'West' where id = 2; insert into cases values (9, 3, 1)");
    const again = await fetch(`http://127.0.0.1:${serving.port}/api/trees/${tree.id}/written/${first?.id}`, { method: 'DELETE' });
    expect(await again.json()).toEqual({
      message: 'These rows cannot be put back as they were: branches(3). Rows of cases that others wrote point at branches(3).',
    });
    expect(await names(tree)).toEqual(['East', 'North', 'West']);
    other.exec('delete from cases where id = 9');
    other.close();
    expect(await takeBack(tree, first?.id)).toBe(204);
    expect(await names(tree)).toEqual(['North', 'South']);
  });
});

test('what a delete reaches is told with the first of the rows by their titles, and nothing is touched', async () => {
  const tree = await newTree(LIBRARY.replace('sample Shelf 0', "sample Shelf\n  a: label 'A', branch Branch(north)"));
  const impact = async (rows: string) => v.parse(ImpactTold, (await ask('POST', `trees/${tree.id}/impact`, { rows })).body);
  const told = await impact('Branch(1)');
  expect(told).toMatchObject({ ok: true, rows: [{ entity: 'Branch', rows: 1 }] });
  if (!told.ok) return;
  expect(told.groups).toMatchObject([{ effect: 'refuses', of: 'Shelf', over: ['branch'], looks: [{ entity: 'Shelf' }] }]);
  expect(told.sql[0]).toContain('with gone_branches');
  expect(await impact('Branche(1)')).toMatchObject({ ok: false, problems: [expect.stringContaining('Branch')] });
  expect((await ask('POST', `trees/${tree.id}/impact`, {})).status).toBe(400);
  expect((await ask('POST', 'trees/none/impact', { rows: 'Branch(1)' })).status).toBe(404);
});

test('rows are sought by what they are shown as, whatever the case, or by their key', async () => {
  const tree = v.parse(Tree, (await ask('POST', 'trees', { from: 'demo' })).body);
  const sought = async (entity: string, text: string) => {
    const { body } = await ask('GET', `trees/${tree.id}/choices/${entity}?sought=${encodeURIComponent(text)}`);
    return v.parse(RowChoices, body).rows;
  };
  expect(await sought('Player', 'nils HEA')).toEqual([{ key: '3', shown: 'Nils Heath' }]);
  expect((await sought('Player', '3')).map(({ key }) => key)).toContain('3');
  expect((await sought('Instrument', 'violin ')).every(({ shown }) => shown.startsWith('Violin '))).toBe(true);
  expect(await sought('Player', "no'body")).toEqual([]);
  expect((await sought('Loan', '7')).map(({ key }) => key)).toEqual(['7']);
  expect(await sought('Loan', 'x')).toEqual([]);
});
