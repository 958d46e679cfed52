import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { afterEach, beforeEach, expect, inject, test } from 'vitest';
import { openMariadb, openPostgres } from '../engines/index.js';
import { rawRows } from '../engines/raw-rows.js';
import { PasswordKeeper } from '../services/index.js';
import { askServer } from '../tests/ask-server.js';
import { temporaryFolder } from '../tests/database.js';
import { addressOf } from '../tests/engines.js';
import { type Serving, serve } from './index.js';

let folder: ReturnType<typeof temporaryFolder>;
let serving: Serving;
const start = () => serve({ data: folder.path, host: '127.0.0.1', port: 0, token: null, uploadLimit: 1e6, quiet: true });
beforeEach(async () => {
  folder = temporaryFolder();
  serving = await start();
});
afterEach(async () => {
  await serving.close();
  folder.remove();
});

const TEXT = `tree 'Tagged'\n\nentity Tag\n  id    integer key\n  name  text(40)\n\nsample Tag\n  a: name 'one'\n  b: name 'two'\n`;

const ask = askServer(() => serving.port);

const newTree = async () => String((await ask('POST', 'trees', { from: 'text', text: TEXT })).body.id);
const names = async (tree: string) => {
  const { body } = await ask('POST', `trees/${tree}/run`, {
    query: { kind: 'text', text: 'from Tag\norder by name desc', head: '' },
    parameters: {},
  });
  return body.ok === true ? (JSON.parse(String(body.text)) as { name: string }[]).map(({ name }) => name) : body.problems;
};
const own = { keepPassword: false, label: '', unlocked: true };

test.each(['postgres', 'mariadb'] as const)(
  'a tree is tried on %s, with its own SQL, and nothing of it is left there when the program ends',
  async (name) => {
    const servers = inject('servers');
    const tree = await newTree();
    const use = { ...own, address: servers[name], password: servers.password, label: 'test bench' };
    const chosen = await ask('PUT', `trees/${tree}/database`, use);
    expect(chosen).toMatchObject({
      status: 200,
      body: { inUse: { kind: 'server', dialect: name, label: 'test bench', unlocked: true } },
    });
    expect(await names(tree)).toEqual(['two', 'one']);
    // The text changes, and so does what is there.
    await ask('PUT', `trees/${tree}/text`, { text: TEXT.replace("'two'", "'three'"), basedOn: 1 });
    expect(await names(tree)).toEqual(['three', 'one']);
    const stem = `family_tree_${tree.replaceAll('-', '').slice(0, 12)}`;
    const open = name === 'postgres' ? openPostgres : openMariadb;
    const admin = open({
      address: addressOf(servers[name]),
      password: servers.password,
      place: null,
      label: name,
      milliseconds: 10_000,
    });
    const there = async () => {
      const sql =
        name === 'postgres'
          ? 'select datname from pg_database where datname like :stem'
          : 'select schema_name from information_schema.schemata where schema_name like :stem';
      const read = await rawRows(admin, sql, { stem: `${stem}%` });
      return read.ok ? read.value.map(([database]) => database) : read.problem;
    };
    expect(await there()).toEqual([`${stem}_r2`]);
    await serving.close();
    expect(await there()).toEqual([]);
    await admin.close();
    serving = await start();
  },
);

test('a locked server is not written to, and says how to unlock it', async () => {
  const servers = inject('servers');
  const tree = await newTree();
  await ask('PUT', `trees/${tree}/database`, { ...own, unlocked: false, address: servers.postgres, password: servers.password });
  expect(await names(tree)).toEqual([expect.stringContaining('locked')]);
  expect((await ask('PATCH', `trees/${tree}/database`, { unlocked: true })).status).toBe(200);
  expect(await names(tree)).toEqual(['two', 'one']);
  await ask('PUT', `trees/${tree}/database`, { ...own, address: null, password: null });
  expect(await names(tree)).toEqual(['two', 'one']);
});

test('an address that lets nobody in is not kept, and the one before stays in use', async () => {
  const servers = inject('servers');
  const tree = await newTree();
  const wrong = { ...own, address: servers.postgres, password: 'not & this' };
  expect(await ask('PUT', `trees/${tree}/database`, wrong)).toMatchObject({
    status: 422,
    body: { message: expect.stringContaining('login') },
  });
  expect((await ask('GET', `trees/${tree}`)).body).toMatchObject({ inUse: { kind: 'own file', address: null } });
  expect(await ask('POST', 'database/try', { address: 'ftp://somewhere', password: null })).toMatchObject({ status: 422 });
});

test('a password is kept encrypted only, works after a restart, and is in no answer', async () => {
  const servers = inject('servers');
  const tree = await newTree();
  const withPassword = servers.postgres.replace('keeper@', `keeper:${encodeURIComponent(servers.password)}@`);
  const chosen = await ask('PUT', `trees/${tree}/database`, {
    ...own,
    keepPassword: true,
    address: withPassword,
    password: null,
  });
  expect(chosen).toMatchObject({ status: 200, body: { inUse: { address: servers.postgres, passwordKept: true } } });
  await serving.close();
  const store = new Database(join(folder.path, 'family-tree.db'), { readonly: true });
  const kept = store.prepare('select password from trees where id = ?').pluck().get(tree) as string;
  store.close();
  for (const text of [JSON.stringify(chosen.body), kept, readFileSync(join(folder.path, 'family-tree.db'), 'latin1')])
    for (const secret of [servers.password, encodeURIComponent(servers.password)]) expect(text).not.toContain(secret);
  const keeper = new PasswordKeeper(folder.path);
  expect(keeper.decrypt(kept)).toBe(servers.password);
  expect(keeper.decrypt(`${kept.slice(0, -8)}AAAAAAA=`)).toBeNull();
  serving = await start();
  expect(await names(tree)).toEqual(['two', 'one']);
});

test('a database on a server is brought in, looked at, and brought in again when it has changed', async () => {
  const servers = inject('servers');
  const admin = openPostgres({
    address: addressOf(servers.postgres),
    password: servers.password,
    place: null,
    label: 'p',
    milliseconds: 10_000,
  });
  await admin.execute(['drop database if exists shop_to_bring with (force)', 'create database shop_to_bring']);
  const address = servers.postgres.replace(/\/postgres$/, '/shop_to_bring');
  const shop = openPostgres({
    address: addressOf(address),
    password: servers.password,
    place: null,
    label: 'p',
    milliseconds: 10_000,
  });
  await shop.execute([
    'create table tags (id int primary key, name text not null)',
    "insert into tags values (1, 'brought')",
    'create table other (id int primary key)',
  ]);
  const brought = await ask('POST', 'databases', {
    address,
    password: servers.password,
    schemas: ['public'],
    tables: 'tag*',
    keepPassword: true,
    label: 'live',
  });
  expect(brought).toMatchObject({
    status: 201,
    body: { tree: { kind: 'brought in', inUse: { kind: 'server', label: 'live' } } },
  });
  expect(brought.body.tree).not.toMatchObject({ text: expect.stringContaining('Other') });
  const { id } = brought.body.tree as { id: string };
  expect(await names(id)).toEqual(['brought']);
  await shop.execute(['alter table tags add column colour text']);
  const again = await ask('POST', `trees/${id}/again`, {});
  expect(again).toMatchObject({ status: 200, body: { changes: [{ kind: 'came' }] } });
  const { pending, text, basedOn } = again.body;
  const taken = await ask('POST', `trees/${id}/again/${String(pending)}`, { text, basedOn });
  expect(taken).toMatchObject({ status: 200, body: { text: expect.stringContaining('colour'), inUse: { passwordKept: true } } });
  expect(await names(id)).toEqual(['brought']);
  await shop.close();
  await serving.close();
  await admin.execute(['drop database shop_to_bring with (force)']);
  await admin.close();
  serving = await start();
});
