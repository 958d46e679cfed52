import { afterAll, beforeAll, expect, test } from 'vitest';
import { HOSTILE_TEXTS } from '../bench/hostile-texts.js';
import { readDesign } from '../core/design/index.js';
import { makeSamples } from '../core/samples/index.js';
import { askServer } from '../tests/ask-server.js';
import { temporaryFolder } from '../tests/database.js';
import { processesBelow } from '../tests/processes.js';
import { type Serving, serve } from './index.js';

const folder = temporaryFolder();
let serving: Serving;
beforeAll(async () => {
  serving = await serve({ data: folder.path, host: '127.0.0.1', port: 0, token: null, uploadLimit: 1e6, quiet: true });
});
afterAll(async () => {
  await serving.close();
  folder.remove();
});

const ask = askServer(() => serving.port);

const added = async (text: string) => String((await ask('POST', 'trees', { from: 'text', text })).body.id);
const ENTITY = "tree 'Freezing'\n\nentity Branch\n  id    integer key\n  name  text(40) optional\n\nsample Branch 3\n";
const run = (tree: string, text: string) =>
  ask('POST', `trees/${tree}/run`, { query: { kind: 'text', text, head: '' }, parameters: {} });

test.each(Object.entries(HOSTILE_TEXTS))(
  '%s: is read, said what is wrong with it, and given rows as far as there can be',
  (_name, text) => {
    const design = readDesign(text);
    const samples = makeSamples(design.model, '2031-04-12T09:00:00.000000Z');
    for (const { rows } of samples.tables) expect(rows.length).toBeLessThanOrEqual(1_000_000);
    design.dialect.createStatements(design.schema);
  },
);

test.each([
  ['a billion rows', /1,000,000 rows of an entity are made at most/],
  ['1,000 chained kinds', /more than 30 bases/],
  ['8,000 chained scopes', /more than 60 others/],
  ['scopes that double', /more than 20,000 parts/],
  ['20,000 fields of one entity', /more than 2,000 fields/],
  ['a decimal with more places than digits', /no more places than digits/],
])('%s has a bound, which is told', (name, message) => {
  expect(
    readDesign(HOSTILE_TEXTS[name] ?? '')
      .findings.map((finding) => finding.message)
      .join('\n'),
  ).toMatch(message);
});

test('while a hostile text is being made, other trees are answered and saved', async () => {
  const tree = await added(ENTITY);
  expect((await run(tree, 'from Branch\ncount')).body).toMatchObject({ ok: true });
  const hostile = await added(HOSTILE_TEXTS['two million rows'] ?? '');
  const counted = run(hostile, 'from Branch\ncount');
  for (let turn = 1; turn <= 5; turn++) {
    expect((await ask('PUT', `trees/${tree}/text`, { text: `${ENTITY}-- ${turn}\n`, basedOn: turn })).status).toBe(200);
    expect((await ask('GET', `trees/${tree}`)).status).toBe(200);
  }
  expect((await run(tree, 'from Branch\ncount')).body).toMatchObject({ ok: true });
  expect(JSON.parse(String((await counted).body.text))).toEqual([{ count: 1_000_000 }]);
}, 600_000);

test('a process that is killed is started again, with the tree’s database', async () => {
  const tree = await added(ENTITY);
  const names = async () => JSON.parse(String((await run(tree, 'from Branch')).body.text));
  const before = await names();
  for (const name of [/tree-work/, /sqlite\/child/]) {
    const found = processesBelow(process.pid).filter(({ program }) => name.test(program));
    expect(found).not.toEqual([]);
    for (const { id } of found) process.kill(id, 'SIGKILL');
    let after = await run(tree, 'from Branch');
    // The one that was asked while its process went may be told so; the next is answered.
    if (after.body.ok !== true) after = await run(tree, 'from Branch');
    expect(JSON.parse(String(after.body.text))).toEqual(before);
  }
}, 600_000);

test('an answer has a length at which it is cut, and that is said', async () => {
  const wide =
    "tree 'Wide'\n\nentity Sheet\n  id    integer key\n  body  text\n  check long: length(body) > 8000\n\nsample Sheet 4000\n";
  const tree = await added(wide);
  const { body } = await run(tree, 'from Sheet');
  expect(body).toMatchObject({ ok: true, cuts: [{ path: '', size: 16 * 1024 * 1024 }] });
  expect(JSON.parse(String(body.text))).toHaveLength(Number(body.rows));
}, 600_000);
