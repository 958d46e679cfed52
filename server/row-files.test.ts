import { readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import * as v from 'valibot';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { BroughtInTree, FileColumns, LinesTold, LookedAtFile, RunResult, Tree } from '../contract/index.js';
import { askServer } from '../tests/ask-server.js';
import { makeTestDatabase, temporaryFolder } from '../tests/database.js';
import { type Serving, serve } from './index.js';

const folder = temporaryFolder();
const data = join(folder.path, 'data');
let serving: Serving;
const start = async () => {
  serving = await serve({ data, host: '127.0.0.1', port: 0, token: null, uploadLimit: 2_000_000, quiet: true });
};
beforeAll(start);
afterAll(async () => {
  await serving.close();
  folder.remove();
});
const ask = askServer(() => serving.port);
const address = (path: string) => `http://127.0.0.1:${serving.port}/api/${path}`;

const LIBRARY = `tree 'Small'

entity Branch in branches
  id    integer key
  name  text(20) unique message 'There is one of this name'
  town  text optional
  shown as name

sample Branch
  north: name 'North', town 'Ferren'
`;

async function newTree(): Promise<Tree> {
  return v.parse(Tree, (await ask('POST', 'trees', { from: 'text', text: LIBRARY })).body);
}

async function send(tree: string, content: string, name = 'branches.csv'): Promise<Response> {
  return fetch(address(`trees/${tree}/files?entity=Branch&name=${encodeURIComponent(name)}`), {
    method: 'POST',
    headers: { 'content-type': 'application/octet-stream' },
    body: content,
  });
}

async function sent(tree: string, content: string, name?: string): Promise<LookedAtFile> {
  return v.parse(LookedAtFile, await (await send(tree, content, name)).json());
}

async function putIn(tree: string, file: LookedAtFile, wish: object = {}): Promise<LinesTold> {
  const asked = {
    entity: 'Branch',
    uses: file.guessed,
    nothing: '',
    there: 'refuse',
    match: [],
    goodOnes: false,
    preview: false,
  };
  return v.parse(LinesTold, (await ask('POST', `trees/${tree}/files/${file.file}/lines`, { ...asked, ...wish })).body);
}

async function names(tree: string): Promise<unknown> {
  const run = { query: { kind: 'text', text: 'from Branch\nshow name\norder by name', head: '' }, parameters: {} };
  const answer = v.parse(RunResult, (await ask('POST', `trees/${tree}/run`, run)).body);
  return answer.ok ? (JSON.parse(answer.text) as { name: string }[]).map(({ name }) => name) : answer.problems;
}

const filesIn = () => readdirSync(data).filter((name) => name.endsWith('.lines'));

test('a file is looked at and tried before anything of it is written, and is put in whole or not at all', async () => {
  const { id } = await newTree();
  const file = await sent(id, 'Name,Town\nSouth,Mill\nNorth,Tarn\n');
  expect(file).toMatchObject({
    form: 'csv',
    columns: ['Name', 'Town'],
    guessed: ['name', 'town'],
    lines: [{ number: 2 }, { number: 3 }],
  });
  const tried = await putIn(id, file, { preview: true });
  expect(tried).toMatchObject({ ok: true, created: 1, refused: 1, kept: false });
  const none = await putIn(id, file);
  expect(none).toMatchObject({
    kept: false,
    refusals: [{ line: 3, column: null, message: expect.stringMatching(/There is one of this name\. It is Branch\(1\)/) }],
  });
  expect(await names(id)).toEqual(['North']);
  expect(await putIn(id, file, { goodOnes: true })).toMatchObject({ created: 1, refused: 1, kept: true, passing: null });
  expect(await names(id)).toEqual(['North', 'South']);
  const left = await fetch(address(`trees/${id}/files/${file.file}/refused`));
  expect(await left.text()).toBe(
    'Name,Town,why refused\r\nNorth,Tarn,There is one of this name What keeps it: Branch.name is unique.\r\n'.replace(
      'name What',
      'name. What',
    ),
  );
});

test('lines that were put into a scratch database are put in again whenever it is made anew, and their file goes when they are taken back', async () => {
  const { id } = await newTree();
  const before = filesIn().length;
  const file = await sent(id, '{"name":"South"}\n{"name":"West","town":null}\n', 'branches.jsonl');
  expect(await putIn(id, file)).toMatchObject({ created: 2, kept: true });
  await fetch(address(`trees/${id}/files/${file.file}`), { method: 'DELETE' });
  await ask('PUT', `trees/${id}/text`, { text: LIBRARY.replace("'North'", "'Nord'"), basedOn: 1 });
  expect(await names(id)).toEqual(['Nord', 'South', 'West']);
  await serving.close();
  await start();
  expect(await names(id)).toEqual(['Nord', 'South', 'West']);
  // What no longer fits is told, and is there again once the text lets it.
  await ask('PUT', `trees/${id}/text`, { text: LIBRARY.replace("'North'", "'South'"), basedOn: 2 });
  expect(await names(id)).toEqual(['South']);
  await ask('PUT', `trees/${id}/text`, { text: LIBRARY, basedOn: 3 });
  expect(await names(id)).toEqual(['North', 'South', 'West']);
  expect(filesIn()).toHaveLength(before + 1);
  const taken = await fetch(address(`trees/${id}/written/${await newest()}`), { method: 'DELETE' });
  expect(taken.status).toBe(204);
  expect(await names(id)).toEqual(['North']);
  expect(filesIn()).toHaveLength(before);
});

test('a file that was put in twice stays for the first time when the second is taken back, however many others are sent', async () => {
  const { id } = await newTree();
  const file = await sent(id, 'name,town\nSouth,Mill\n');
  const wish = { there: 'update', match: ['name'] };
  expect(await putIn(id, file, wish)).toMatchObject({ created: 1, kept: true });
  expect(await putIn(id, file, wish)).toMatchObject({ updated: 1, kept: true });
  expect((await fetch(address(`trees/${id}/written/${await newest()}`), { method: 'DELETE' })).status).toBe(204);
  for (let at = 0; at < 21; at++) await sent(id, `name\nOther ${at}\n`);
  await ask('PUT', `trees/${id}/text`, { text: LIBRARY.replace("'North'", "'Nord'"), basedOn: 1 });
  expect(await names(id)).toEqual(['Nord', 'South']);
});

/** The number of what was written last: they are counted over all trees. */
async function newest(): Promise<number> {
  const { default: Sqlite } = await import('better-sqlite3');
  const store = new Sqlite(join(data, 'family-tree.db'), { readonly: true });
  try {
    return Number(store.prepare('select max(id) from written_commands').pluck().get());
  } finally {
    store.close();
  }
}

test('of a database that was brought in how its rows were is kept, so that lines put in are taken back', async () => {
  const made = await makeTestDatabase(LIBRARY);
  const upload = await fetch(address('databases?name=small.db'), {
    method: 'POST',
    headers: { 'content-type': 'application/octet-stream' },
    body: readFileSync(made.path),
  });
  await made.close();
  const { tree } = v.parse(BroughtInTree, await upload.json());
  const file = await sent(tree.id, 'name,town\nSouth,Mill\nNorth,Tarn\n');
  expect(await putIn(tree.id, file, { there: 'update', match: ['name'] })).toMatchObject({ created: 1, updated: 1, kept: true });
  expect(await names(tree.id)).toEqual(['North', 'South']);
  expect((await fetch(address(`trees/${tree.id}/written/${await newest()}`), { method: 'DELETE' })).status).toBe(204);
  expect(await names(tree.id)).toEqual(['North']);
});

test('rows are saved as a file, those of the filter in their order', async () => {
  const { id } = await newTree();
  await putIn(id, await sent(id, 'name,town\nSouth,"Mill, the"\nEast,\n'));
  const columns = v.parse(FileColumns, (await ask('GET', `trees/${id}/entities/Branch/columns`)).body);
  expect(columns).toEqual({ uses: ['id', 'name', 'town'], whole: ['id', 'name', 'town'] });
  const asked = {
    entity: 'Branch',
    where: "not name = 'North'",
    orderBy: 'name desc',
    via: null,
    uses: ['name', 'town'],
    form: 'csv',
    nothing: '',
  };
  const saved = await fetch(address(`trees/${id}/rows/file`), {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(asked),
  });
  expect(saved.headers.get('content-disposition')).toContain('Branch.csv');
  expect(await saved.text()).toBe('name,town\r\nSouth,"Mill, the"\r\nEast,\r\n');
  const wrong = await ask('POST', `trees/${id}/rows/file`, { ...asked, where: 'nam = 1' });
  expect(wrong).toMatchObject({ status: 422, body: { message: expect.stringContaining('nam') } });
  expect(readdirSync(data).filter((name) => name.endsWith('.rows-out'))).toEqual([]);
});

test('a file that is none, is too large, or is another tree’s, is refused and leaves nothing behind', async () => {
  const { id } = await newTree();
  const other = await newTree();
  const before = filesIn().length;
  expect(await (await send(id, 'no object', 'a.jsonl')).json()).toMatchObject({
    message: expect.stringMatching(/^a\.jsonl cannot be read\. .*no JSON object/),
  });
  const large = await send(id, `name\n${'x'.repeat(3_000_000)}`);
  expect(large.status).toBe(413);
  expect(await large.json()).toMatchObject({ message: expect.stringContaining('family-tree import-rows') });
  expect(filesIn()).toHaveLength(before);
  const file = await sent(id, 'name\nSouth\n');
  expect(statSync(join(data, filesIn().at(-1) ?? '')).mode & 0o077).toBe(0);
  expect((await ask('POST', `trees/${other.id}/files/${file.file}/lines`, { uses: [] })).status).toBe(400);
  const asked = { entity: 'Branch', uses: ['name'], nothing: '', there: 'refuse', match: [], goodOnes: false, preview: false };
  expect((await ask('POST', `trees/${other.id}/files/${file.file}/lines`, asked)).status).toBe(404);
  expect(await putIn(id, file, { uses: ['nme'] })).toMatchObject({
    ok: false,
    problems: [expect.stringContaining('Branch has nothing called “nme”')],
  });
});
