import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { temporaryFolder } from '../tests/database.js';
import { type Serving, serve } from './index.js';

const folder = temporaryFolder();
const given = join(folder.path, 'given');
const file = join(given, 'library.db');
let serving: Serving;

beforeAll(async () => {
  mkdirSync(given);
  const db = new Database(file);
  // The catalogue says nothing of what a remark is about.
  db.exec(`
    create table halls (id integer primary key, name text not null);
    create table pieces (id integer primary key, title text not null);
    create table remarks (id integer primary key, body text not null, subject_type text not null, subject_id integer not null);
    insert into halls values (1, 'North Quay');
    insert into pieces values (1, 'Bridge song');
    insert into remarks values (1, 'Cold', 'hall', 1), (2, 'Long', 'piece', 1), (3, 'Lost', 'piece', 9);
  `);
  db.close();
  writeFileSync(join(folder.path, 'outside.db'), readFileSync(file));
  writeFileSync(join(given, 'words.db'), 'no database');
  serving = await serve({
    data: join(folder.path, 'data'),
    host: '127.0.0.1',
    port: 0,
    token: null,
    uploadLimit: 1e6,
    folder: given,
    quiet: true,
  });
});
afterAll(async () => {
  await serving.close();
  folder.remove();
});

async function ask(method: string, path: string, body?: unknown): Promise<{ status: number; body: Record<string, unknown> }> {
  const response = await fetch(`http://127.0.0.1:${serving.port}/api/${path}`, {
    method,
    headers: { 'content-type': 'application/json' },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  });
  const text = await response.text();
  return { status: response.status, body: text === '' ? {} : (JSON.parse(text) as Record<string, unknown>) };
}

const TEXT = `tree 'Remarks'
entity Hall
  id integer key
  name text
entity Piece
  id integer key
  title text
entity Remark
  id integer key
  body text
relation about
  Remark knows one Hall | Piece as subject
  each knows many Remark as remarks
  stored in Remark.subject_type with Remark.subject_id
`;

const use = (address: string | null) => ({ address, password: null, keepPassword: false, label: '', unlocked: false });
const added = async () => String((await ask('POST', 'trees', { from: 'text', text: TEXT })).body.id);

describe('a text that speaks of a SQLite file that is there', () => {
  test('says more of it than its catalogue does, and what it says is asked and checked there', async () => {
    const before = readFileSync(file);
    const tree = await added();
    const chosen = await ask('PUT', `trees/${tree}/database`, use('sqlite:library.db'));
    expect(chosen).toMatchObject({ status: 200, body: { kind: 'brought in', arrived: false } });
    const run = await ask('POST', `trees/${tree}/run`, {
      query: { kind: 'text', text: 'from Remark\nload subject\norder by id', head: '' },
      parameters: {},
    });
    expect(run.body).toMatchObject({ ok: true });
    expect(JSON.parse(String(run.body.text))).toMatchObject([
      { id: 1, subject: { name: 'North Quay' } },
      { id: 2, subject: { title: 'Bridge song' } },
      { id: 3, subject: null },
    ]);
    const checked = await ask('GET', `trees/${tree}/rows/findings`);
    expect(checked.body.findings).toMatchObject([{ code: 'lost-key' }]);
    expect(readFileSync(file)).toEqual(before);
  });

  test('can be made into a database of its own again', async () => {
    const tree = await added();
    await ask('PUT', `trees/${tree}/database`, use('sqlite:library.db'));
    expect(await ask('PUT', `trees/${tree}/database`, use(null))).toMatchObject({ status: 200, body: { kind: 'made' } });
    const run = await ask('POST', `trees/${tree}/run`, {
      query: { kind: 'text', text: 'from Remark\ncount', head: '' },
      parameters: {},
    });
    expect(JSON.parse(String(run.body.text))).toEqual([{ count: 12 }]);
  });

  test.each([
    ['outside the folder that was given', 'sqlite:../outside.db', 'below the folder'],
    ['that is no database', 'sqlite:words.db', 'words.db'],
    ['that is not there', 'sqlite:nothing.db', 'nothing.db'],
  ])('a file %s is refused in words, and the tree keeps its database', async (_what, address, words) => {
    const tree = await added();
    const refused = await ask('PUT', `trees/${tree}/database`, use(address));
    expect(refused).toMatchObject({ status: 422, body: { message: expect.stringContaining(words) } });
    expect((await ask('GET', `trees/${tree}`)).body).toMatchObject({ kind: 'made' });
  });
});

describe('the shelf', () => {
  test('takes a tree off and puts it back, and loses nothing of it meanwhile', async () => {
    const tree = await added();
    const listed = async () => {
      const { body } = await ask('GET', 'trees');
      const has = (list: unknown) => (list as { id: string }[]).some(({ id }) => id === tree);
      return [has(body.trees), has(body.takenOff)];
    };
    expect(await listed()).toEqual([true, false]);
    expect((await ask('PATCH', `trees/${tree}`, { takenOff: true })).status).toBe(204);
    expect(await listed()).toEqual([false, true]);
    expect((await ask('GET', `trees/${tree}`)).body).toMatchObject({ text: TEXT });
    await ask('PATCH', `trees/${tree}`, { takenOff: false });
    expect(await listed()).toEqual([true, false]);
    expect((await ask('PATCH', 'trees/nobody', { takenOff: true })).status).toBe(404);
  });
});

test('the making of rows can be ended, and begun again', async () => {
  const many = `${TEXT}sample Hall 400000\n`;
  const { id } = (await ask('POST', 'trees', { from: 'text', text: many })).body;
  const state = async () => {
    const response = await fetch(`http://127.0.0.1:${serving.port}/api/trees/${id}/events`);
    const reader = response.body?.getReader();
    const { value } = (await reader?.read()) ?? {};
    await reader?.cancel();
    return new TextDecoder().decode(value);
  };
  const until = async (words: string) => {
    for (let waited = 0; waited < 300; waited++) {
      if ((await state()).includes(words)) return;
      await new Promise((resolve) => setTimeout(resolve, 100));
    }
    throw new Error(`never ${words}: ${await state()}`);
  };
  await until('thinking out');
  expect((await ask('DELETE', `trees/${id}/database/making`)).status).toBe(204);
  await until('"stopped":true');
  expect((await ask('POST', `trees/${id}/database/making`)).status).toBe(202);
  await until('"status":"ready"');
}, 600_000);
