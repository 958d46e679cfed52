import { readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, inject, test } from 'vitest';
import { askServer } from '../tests/ask-server.js';
import { temporaryFolder } from '../tests/database.js';
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

const textWith = (kept: string) =>
  `tree 'Stated'\n  dialect postgres\n  kept '${kept.replaceAll("'", "''")}'\n\nentity Tag\n  id    integer key\n  name  text(40)\n\nsample Tag 3\n`;
const VIEW = "create view names as select 'so'::text as name";

const ask = askServer(() => serving.port);

const added = async (text: string) => String((await ask('POST', 'trees', { from: 'text', text })).body.id);
const count = async (tree: string) => {
  const query = { kind: 'text', text: 'from Tag\ncount', head: '' };
  const { body } = await ask('POST', `trees/${tree}/run`, { query, parameters: {} });
  return body.ok === true ? JSON.parse(String(body.text)) : body.problems;
};

type Asked = { status: string; powers: string | null; statements: { sql: string; digest: string; reaches: string[] }[] };

/** The first state of a tree’s database that is no making. */
async function settled(tree: string): Promise<Asked> {
  const answer = await fetch(`http://127.0.0.1:${serving.port}/api/trees/${tree}/events`);
  const reader = answer.body?.pipeThrough(new TextDecoderStream()).getReader();
  let seen = '';
  for (;;) {
    const { value = '', done } = (await reader?.read()) ?? { done: true };
    seen += value;
    const states = Array.from(
      seen.matchAll(/^data: (\{"kind":"database".*\})$/gm),
      ([, json = '{}']) => JSON.parse(json).state as Asked,
    );
    const last = states.at(-1);
    if (last !== undefined && last.status !== 'making') {
      await reader?.cancel();
      return last;
    }
    if (done) throw new Error(`no state in ${seen}`);
  }
}

const own = { keepPassword: false, label: '', unlocked: true, password: null };
const NOT_AGREED = [expect.stringContaining('nobody has agreed to')];

test('SQL that a text states is run on the embedded engine once a person has agreed to it, and asked about again where it changes', async () => {
  const tree = await added(textWith(VIEW));
  await ask('PUT', `trees/${tree}/database`, { ...own, address: 'postgres:embedded' });
  expect(await count(tree)).toEqual(NOT_AGREED);
  const asks = await settled(tree);
  expect(asks).toMatchObject({ status: 'asks', powers: null, statements: [{ sql: VIEW, reaches: [] }] });
  const digests = asks.statements.map(({ digest }) => digest);
  expect(await ask('POST', `trees/${tree}/sql`, { digests: ['0'.repeat(64)], powers: false })).toMatchObject({ status: 200 });
  expect(await count(tree)).toEqual(NOT_AGREED);
  await ask('POST', `trees/${tree}/sql`, { digests, powers: false });
  expect(await count(tree)).toEqual([{ count: 3 }]);
  // The same SQL in another text, and the same text again, are not asked about.
  await ask('PUT', `trees/${tree}/text`, { text: textWith(VIEW).replace("'Stated'", "'Renamed'"), basedOn: 1 });
  expect(await count(tree)).toEqual([{ count: 3 }]);
  await ask('PUT', `trees/${tree}/text`, { text: textWith(`${VIEW}, 2 as more`), basedOn: 2 });
  expect(await settled(tree)).toMatchObject({ status: 'asks', statements: [{ sql: `${VIEW}, 2 as more` }] });
}, 600_000);

test('an embedded PostgreSQL whose folder is broken is set aside, and the text made in a new one', async () => {
  const plain = textWith(VIEW).replace(/ {2}kept.*\n/, '');
  const tree = await added(plain);
  await ask('PUT', `trees/${tree}/database`, { ...own, address: 'postgres:embedded' });
  expect(await count(tree)).toEqual([{ count: 3 }]);
  await serving.close();
  writeFileSync(join(folder.path, `${tree}.embedded`, 'PG_VERSION'), 'not one\n');
  writeFileSync(join(folder.path, `${tree}.embedded`, 'global', 'pg_control'), 'nothing');
  serving = await start();
  expect(await count(tree)).toEqual([{ count: 3 }]);
  expect(readdirSync(folder.path).filter((name) => name.startsWith(`${tree}.embedded.broken-`))).toHaveLength(1);
}, 600_000);

test('two trees on an embedded PostgreSQL know nothing of each other', async () => {
  const [one, two] = [await added(textWith('create table mine (a int)').replace('mine', 'ones')), await added(textWith(VIEW))];
  for (const tree of [one, two]) await ask('PUT', `trees/${tree}/database`, { ...own, address: 'postgres:embedded' });
  for (const tree of [one, two]) {
    const { statements } = await settled(tree);
    await ask('POST', `trees/${tree}/sql`, { digests: statements.map(({ digest }) => digest), powers: false });
  }
  expect(await Promise.all([count(one), count(two)])).toEqual([[{ count: 3 }], [{ count: 3 }]]);
}, 600_000);

test('nothing is asked of a SQLite file of its own, where SQL reaches nothing else', async () => {
  const text = textWith(VIEW).replace('postgres', 'sqlite').replace("''so''::text", '1');
  const tree = await added(text);
  expect(await count(tree)).toEqual([{ count: 3 }]);
});

test('a login that could do more than its database holds needs a second yes, which says what it could do', async () => {
  const { postgres, password } = inject('servers');
  const tree = await added(textWith(VIEW));
  await ask('PUT', `trees/${tree}/database`, { ...own, address: postgres, password });
  const asks = await settled(tree);
  expect(asks).toMatchObject({ status: 'asks', powers: expect.stringContaining('run programs on the server') });
  const digests = asks.statements.map(({ digest }) => digest);
  await ask('POST', `trees/${tree}/sql`, { digests, powers: false });
  expect(await count(tree)).toEqual(NOT_AGREED);
  await ask('POST', `trees/${tree}/sql`, { digests, powers: true });
  expect(await count(tree)).toEqual([{ count: 3 }]);
}, 600_000);
