import { spawn } from 'node:child_process';
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { request } from 'node:http';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import * as v from 'valibot';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import {
  Arrival,
  BroughtAgain,
  BroughtInTree,
  CommandsDone,
  type DatabaseState,
  RowsAnswer,
  RunResult,
  SaveConflict,
  Saved,
  Tree,
  TreeEvent,
  TreeList,
} from '../contract/index.js';
import { COMMAND } from '../tests/command.js';
import { temporaryFolder } from '../tests/database.js';
import { type Serving, serve } from './index.js';

const folder = temporaryFolder();
let serving: Serving;
beforeAll(async () => {
  serving = await serve({
    data: join(folder.path, 'data'),
    host: '127.0.0.1',
    port: 0,
    token: null,
    uploadLimit: 2_000_000,
    quiet: true,
  });
});
afterAll(async () => {
  await serving.close();
  folder.remove();
});

interface Answer {
  readonly status: number;
  readonly body: unknown;
}

/** Asks the server; node's own client, since fetch sets Host and Origin by itself. */
function ask(
  method: string,
  path: string,
  body?: unknown,
  headers: Record<string, string> = {},
  port = serving.port,
): Promise<Answer> {
  const raw = Buffer.isBuffer(body) ? body : body === undefined ? undefined : Buffer.from(JSON.stringify(body));
  return new Promise((resolve, reject) => {
    const sent = request(
      {
        host: '127.0.0.1',
        port,
        path: `/api/${path}`,
        method,
        headers: {
          'content-type': 'application/json',
          ...(raw !== undefined && { 'content-length': String(raw.length) }),
          ...headers,
        },
      },
      (response) => {
        let text = '';
        response.on('data', (chunk: Buffer) => {
          text += chunk.toString();
        });
        response.on('end', () =>
          resolve({ status: response.statusCode ?? 0, body: text === '' ? null : (JSON.parse(text) as unknown) }),
        );
      },
    );
    sent.on('error', reject);
    if (raw !== undefined) sent.write(raw);
    sent.end();
  });
}

const messageOf = ({ body }: Answer) => (body as { message: string }).message;

async function newTree(text: string): Promise<Tree> {
  return v.parse(Tree, (await ask('POST', 'trees', { from: 'text', text })).body);
}

const LIBRARY = "tree 'Small'\n\nentity Branch\n  id integer key\n  name text(20)\n\nsample Branch\n  north: name 'North'\n";

describe('saving', () => {
  test('a text is saved as the next revision, and every one can be got back', async () => {
    const tree = await newTree(LIBRARY);
    const text = LIBRARY.replace('North', 'South');
    expect(v.parse(Saved, (await ask('PUT', `trees/${tree.id}/text`, { text, basedOn: 1 })).body).revision).toBe(2);
    expect((await ask('GET', `trees/${tree.id}/revisions/1`)).body).toMatchObject({ text: LIBRARY });
    expect((await ask('GET', `trees/${tree.id}/revisions/2`)).body).toMatchObject({ text });
    expect((await ask('GET', `trees/${tree.id}`)).body).toMatchObject({ revision: 2, text });
  });

  test('a text based on an older revision is not saved; both are given', async () => {
    const tree = await newTree(LIBRARY);
    await ask('PUT', `trees/${tree.id}/text`, { text: `${LIBRARY}-- theirs\n`, basedOn: 1 });
    const answer = await ask('PUT', `trees/${tree.id}/text`, { text: `${LIBRARY}-- mine\n`, basedOn: 1 });
    expect(answer.status).toBe(409);
    expect(v.parse(SaveConflict, answer.body)).toMatchObject({ revision: 2, text: `${LIBRARY}-- theirs\n` });
  });

  test('a text of 5 MB is refused with a way out, and nothing is lost', async () => {
    const tree = await newTree(LIBRARY);
    const answer = await ask('PUT', `trees/${tree.id}/text`, { text: 'x'.repeat(5_000_000), basedOn: 1 });
    expect(answer.status).toBe(413);
    expect(messageOf(answer)).toContain('Split the tree');
    expect((await ask('GET', `trees/${tree.id}`)).body).toMatchObject({ revision: 1, text: LIBRARY });
  });

  test('a body that does not fit is refused', async () => {
    expect((await ask('POST', 'trees', { from: 'nowhere' })).status).toBe(400);
    expect((await ask('PUT', 'trees/x/text', Buffer.from('{"text":'))).status).toBe(400);
    expect((await ask('PUT', 'trees/none/text', { text: 'x', basedOn: 1 })).status).toBe(404);
    expect((await ask('GET', 'nothing')).status).toBe(404);
  });

  test('what was shown as saved is there after the server is killed', async () => {
    const data = join(folder.path, 'killed');
    const start = () =>
      new Promise<{ kill(): void; port: number }>((resolve) => {
        const child = spawn(process.execPath, [...COMMAND, 'serve', '--data', data, '--port', '0'], {
          stdio: ['ignore', 'pipe', 'ignore'],
        });
        child.stdout.on('data', (chunk: Buffer) => {
          const port = /:(\d+)\//.exec(chunk.toString())?.[1];
          if (port !== undefined) resolve({ port: Number(port), kill: () => child.kill('SIGKILL') });
        });
      });
    const first = await start();
    const tree = v.parse(Tree, (await ask('POST', 'trees', { from: 'text', text: LIBRARY }, {}, first.port)).body);
    let confirmed = 1;
    let killed = false;
    const typing = (async () => {
      for (let count = 1; ; count++) {
        const answer = await ask(
          'PUT',
          `trees/${tree.id}/text`,
          { text: `${LIBRARY}-- ${count}\n`, basedOn: confirmed },
          {},
          first.port,
        ).catch(() => null);
        if (answer === null || answer.status !== 200) return;
        confirmed = v.parse(Saved, answer.body).revision;
      }
    })();
    setTimeout(() => {
      killed = true;
      first.kill();
    }, 700);
    await typing;
    expect(killed).toBe(true);
    expect(confirmed).toBeGreaterThan(2);
    const second = await start();
    const after = v.parse(Tree, (await ask('GET', `trees/${tree.id}`, undefined, {}, second.port)).body);
    expect(after.revision).toBeGreaterThanOrEqual(confirmed);
    expect((await ask('GET', `trees/${tree.id}/revisions/${confirmed}`, undefined, {}, second.port)).body).toMatchObject({
      text: `${LIBRARY}-- ${confirmed - 1}\n`,
    });
    second.kill();
  });
});

describe('running', () => {
  const run = (tree: Tree, text: string, head = '') =>
    ask('POST', `trees/${tree.id}/run`, { query: { kind: 'text', text, head }, parameters: {} });

  test('a change of the text is in the rows of the next run', async () => {
    const tree = await newTree(LIBRARY);
    expect(v.parse(RunResult, (await run(tree, 'from Branch')).body)).toMatchObject({
      ok: true,
      text: '[{"id":1,"name":"North"}]',
    });
    await ask('PUT', `trees/${tree.id}/text`, { text: LIBRARY.replace('North', 'South'), basedOn: 1 });
    expect(v.parse(RunResult, (await run(tree, 'from Branch')).body)).toMatchObject({
      ok: true,
      text: '[{"id":1,"name":"South"}]',
      revision: 2,
    });
  });

  test('commands are rehearsed on the scratch database, and its rows are as they were', async () => {
    const tree = await newTree(LIBRARY);
    const rehearse = async (text: string) =>
      v.parse(CommandsDone, (await ask('POST', `trees/${tree.id}/rehearse`, { text })).body);
    const told = await rehearse("x = create Branch with name 'South'; update Branch(x) with name 'West'");
    expect(told).toMatchObject({
      ok: true,
      lines: [
        { span: { start: 0, end: 35 }, rows: [{ change: 'created', key: '2' }], more: 0 },
        { rows: [{ change: 'updated', before: { name: 'South' }, after: { name: 'West' } }] },
      ],
    });
    expect(told.log.some(({ plain }) => plain.startsWith('insert into branch'))).toBe(true);
    expect(v.parse(RunResult, (await run(tree, 'from Branch\nshow name')).body)).toMatchObject({ text: '[{"name":"North"}]' });
    expect(await rehearse("create Branch with nam 'x'")).toMatchObject({ ok: false, reached: [] });
    const refused = await rehearse('delete Branch(1)\nupdate Branch(1) with name null');
    expect(refused).toMatchObject({ ok: false, problems: [expect.stringContaining('there is no such row of Branch')] });
    expect(refused.ok === false && refused.reached).toHaveLength(2);
    expect((await ask('POST', `trees/${tree.id}/rehearse`, {})).status).toBe(400);
    expect((await ask('POST', 'trees/none/rehearse', { text: '' })).status).toBe(404);
  });

  test('what is wrong with a query is told with its place', async () => {
    const tree = await newTree(LIBRARY);
    const result = v.parse(RunResult, (await run(tree, 'from Branch\nwhere nme = 1')).body);
    expect(result).toMatchObject({
      ok: false,
      findings: [{ message: expect.stringContaining('Did you mean name?'), span: { start: 18, end: 21 } }],
    });
  });

  test('a query that runs for ever is stopped, and the server goes on', async () => {
    const many = Array.from(
      { length: 7 },
      (_, index) => `count(others.others.others.others.others.others.others.others[id > ${index}])`,
    ).join(' + ');
    const tree = await newTree(
      `tree 'Slow'\n\nentity Node\n  id integer key\n\nrelation edges\n  Node knows many Node as others\n  Node knows many Node as back\n\nsample Node 400\n  others 8 to 8 each\n`,
    );
    const answer = v.parse(RunResult, (await run(tree, `from Node\nwhere ${many} < 0`)).body);
    expect(answer.ok ? '' : answer.problems[0]).toMatch(
      new RegExp(`^Stopped after ${process.env.FAMILY_TREE_LONGEST_RUN} s, while this ran:\\nselect`),
    );
    expect(v.parse(RunResult, (await run(tree, 'from Node\ncount')).body)).toMatchObject({ ok: true, text: '[{"count":400}]' });
  }, 600_000);

  test('the state of the database is told as it changes', async () => {
    const tree = await newTree(LIBRARY);
    const response = await fetch(`http://127.0.0.1:${serving.port}/api/trees/${tree.id}/events`);
    const reader = response.body?.getReader();
    const states: DatabaseState[] = [];
    while (states.at(-1)?.status !== 'ready') {
      const { value } = (await reader?.read()) ?? {};
      for (const line of Buffer.from(value ?? [])
        .toString()
        .split('\n'))
        if (line.startsWith('data: ')) {
          const event = v.parse(TreeEvent, JSON.parse(line.slice(6)));
          if (event.kind === 'database') states.push(event.state);
        }
    }
    expect([...new Set(states.map((state) => state.status))]).toEqual(['making', 'ready']);
    expect(states.at(-1)).toMatchObject({ rows: { branches: 1 } });
    await reader?.cancel();
  });

  test('rows come in windows, with what they know counted, and a relation says what its rows say', async () => {
    const tree = await newTree(LIBRARY);
    const body = { entity: 'Branch', where: '', orderBy: '', via: null, from: 0, count: 10 };
    const { body: answer } = await ask('POST', `trees/${tree.id}/rows`, body);
    expect(v.parse(RowsAnswer, answer)).toMatchObject({ ok: true, total: 1, cut: false, rows: [{ id: 1, '~shown': 'North' }] });
    const wrong = await ask('POST', `trees/${tree.id}/rows`, { ...body, where: 'nonsense' });
    expect(v.parse(RowsAnswer, wrong.body)).toMatchObject({ ok: false, findings: [{ part: 'where', start: 0, end: 8 }] });
    expect((await ask('POST', `trees/${tree.id}/rows`, { ...body, count: 9999 })).status).toBe(400);
    expect((await ask('GET', `trees/${tree.id}/counts`)).body).toMatchObject({ rows: { Branch: 1 } });
    expect((await ask('POST', `trees/${tree.id}/counts`, { entity: 'Branch', keys: [1] })).status).toBe(200);
    expect((await ask('GET', `trees/${tree.id}/relations/nothing/rows`)).body).toEqual({
      ok: false,
      problem: 'There is no relation nothing in the text.',
    });
  });

  test('the log tells how each statement is answered', async () => {
    const tree = await newTree(LIBRARY);
    const answer = v.parse(RunResult, (await run(tree, "from Branch\nwhere name like 'N%'")).body);
    expect(answer.ok ? answer.log[0]?.steps[0] : null).toEqual({
      depth: 0,
      text: 'reads every row of branches',
      mark: 'full scan',
      expected: null,
      found: null,
    });
    const byKey = v.parse(RunResult, (await run(tree, 'from Branch\nwhere id = 1')).body);
    expect(byKey.ok ? byKey.log[0]?.steps[0] : null).toMatchObject({ text: expect.stringContaining('by the key'), mark: null });
  });

  test('each revision says where it came from and how many lines it changed', async () => {
    const tree = await newTree(LIBRARY);
    await ask('PUT', `trees/${tree.id}/text`, { text: `${LIBRARY}\n-- one more\n`, basedOn: 1 });
    const { body } = await ask('GET', `trees/${tree.id}/revisions`);
    expect(body).toMatchObject({
      revisions: [
        { number: 2, source: 'page', removed: 0 },
        { number: 1, source: 'page' },
      ],
    });
  });

  test('only .kin files below the given folder are opened, and they are listed', async () => {
    const below = join(folder.path, 'repository');
    mkdirSync(join(below, 'schema'), { recursive: true });
    writeFileSync(join(below, 'schema', 'mine.kin'), "tree 'Mine'\n");
    writeFileSync(join(folder.path, 'outside.kin'), "tree 'Outside'\n");
    const options = { host: '127.0.0.1', port: 0, token: null, uploadLimit: 1000, quiet: true };
    const other = await serve({ ...options, data: join(folder.path, 'bound'), folder: below });
    const open = (path: string) =>
      fetch(`http://127.0.0.1:${other.port}/api/files`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ path }),
      });
    const list = (await (await fetch(`http://127.0.0.1:${other.port}/api/trees`)).json()) as object;
    expect(list).toMatchObject({ folder: { path: below, files: ['schema/mine.kin'] } });
    expect(await (await open('schema/mine.kin')).json()).toMatchObject({
      title: 'Mine',
      file: join(below, 'schema', 'mine.kin'),
    });
    for (const path of ['../outside.kin', '/etc/passwd', 'schema', join(folder.path, 'outside.kin')])
      expect((await open(path)).status).toBe(403);
    expect((await open('schema/nothing.kin')).status).toBe(422);
    await other.close();
  });

  test('rows to choose from are shown as their entity says', async () => {
    const tree = await newTree(LIBRARY);
    expect((await ask('GET', `trees/${tree.id}/choices/Branch`)).body).toEqual({
      rows: [{ key: '1', shown: 'North' }],
      more: false,
    });
  });
});

describe('bringing in', () => {
  const upload = (name: string, content: Buffer, headers: Record<string, string> = {}) =>
    ask('POST', `databases?name=${name}`, content, { 'content-type': 'application/octet-stream', ...headers });

  test('a SQLite file becomes a tree, and is looked at as it is', async () => {
    const path = join(folder.path, 'shop.db');
    const db = new Database(path);
    db.exec(
      "create table shops (id integer primary key, name text); create table goods (id integer primary key, shop_id integer references shops, name text); insert into shops values (1, 'A'); insert into goods values (1, 1, 'x')",
    );
    db.close();
    const before = readFileSync(path);
    const { tree, arrival } = v.parse(BroughtInTree, (await upload('shop.db', before)).body);
    expect(arrival).toMatchObject({ kept: [], report: [], copied: null, source: { kind: 'upload', name: 'shop.db' } });
    expect(tree).toMatchObject({ title: 'Shop', kind: 'brought in' });
    const answer = await ask('POST', `trees/${tree.id}/run`, {
      query: { kind: 'text', text: 'from Shop\nload goods', head: '' },
      parameters: {},
    });
    expect(v.parse(RunResult, answer.body)).toMatchObject({
      ok: true,
      text: '[{"id":"1","name":"A","goods":[{"id":"1","shop_id":"1","name":"x"}]}]',
    });
    await ask('PUT', `trees/${tree.id}/text`, { text: `${tree.text}\nentity Extra\n  id integer key\n`, basedOn: 1 });
    const missing = await ask('POST', `trees/${tree.id}/run`, {
      query: { kind: 'text', text: 'from Extra', head: '' },
      parameters: {},
    });
    expect((missing.body as { problems: string[] }).problems[0]).toContain('extras');
    expect(readFileSync(path)).toEqual(before);
  });

  test('a script becomes a tree, and what became of it is kept', async () => {
    const script = Buffer.from('create table shops (id integer primary key);\nnonsense here;\ncreate tabel x;\n');
    const { tree, arrival } = v.parse(BroughtInTree, (await upload('shop.sql', script)).body);
    expect(arrival).toMatchObject({
      source: { kind: 'upload', name: 'shop.sql' },
      script: { made: 1, failures: 1, failed: [{ line: 3 }] },
    });
    expect(v.parse(Arrival, (await ask('GET', `trees/${tree.id}/arrival`)).body)).toEqual(arrival);
    expect((await upload('empty.sql', Buffer.alloc(0))).status).toBe(422);
  });

  test('the same database, brought in again, changes the text by what changed there', async () => {
    const path = join(folder.path, 'again.db');
    new Database(path).exec('create table shops (id integer primary key, name text)').close();
    const { tree } = v.parse(BroughtInTree, (await upload('again.db', readFileSync(path))).body);
    const mine = tree.text.replace('entity Shop', "entity Shop\n  note 'Where we buy strings'");
    await ask('PUT', `trees/${tree.id}/text`, { text: mine, basedOn: 1 });
    new Database(path)
      .exec(
        'alter table shops add column town text; create table goods (id integer primary key, shop_id integer references shops)',
      )
      .close();
    const headers = { 'content-type': 'application/octet-stream' };
    const again = await ask('POST', `trees/${tree.id}/again?name=again.db`, readFileSync(path), headers);
    const found = v.parse(BroughtAgain, again.body);
    // Most keys name no column now, which the head of the tree says once.
    expect(found.changes.map(({ kind, where }) => `${kind} ${where}`)).toEqual([
      'came tree',
      'came entity Shop',
      'came entity Good',
      'came relation good_shop',
    ]);
    expect(found.text).toContain('Where we buy strings');
    const taken = await ask('POST', `trees/${tree.id}/again/${found.pending}`, { text: found.text, basedOn: found.basedOn });
    expect(taken.status).toBe(200);
    expect(v.parse(Tree, taken.body)).toMatchObject({ revision: 3, text: found.text });
    const rows = await ask('POST', `trees/${tree.id}/run`, {
      query: { kind: 'text', text: 'from Good', head: '' },
      parameters: {},
    });
    expect(v.parse(RunResult, rows.body)).toMatchObject({ ok: true, text: '[]' });
    expect((await ask('POST', `trees/${tree.id}/again/${found.pending}`, { text: mine, basedOn: 3 })).status).toBe(404);
    const old = v.parse(
      BroughtAgain,
      (await ask('POST', `trees/${tree.id}/again?name=again.db`, readFileSync(path), headers)).body,
    );
    expect(old.changes).toEqual([]);
    await ask('PUT', `trees/${tree.id}/text`, { text: `${found.text}\nscope named\n  Shop where name <> ''\n`, basedOn: 3 });
    expect((await ask('POST', `trees/${tree.id}/again/${old.pending}`, { text: old.text, basedOn: old.basedOn })).status).toBe(
      409,
    );
  });

  test('only files below the folder that was given can be brought in where they lie', async () => {
    const answer = await ask('POST', 'databases', { path: '../../etc/passwd' });
    expect(answer.status).toBe(403);
    expect(messageOf(answer)).toContain('below the folder that was given');
  });

  test('what is no database is refused in words, and leaves nothing behind', async () => {
    for (const content of [
      Buffer.from('hello'),
      Buffer.alloc(0),
      Buffer.concat([Buffer.from('SQLite format 3\0'), Buffer.alloc(4000, 7)]),
    ]) {
      const answer = await upload('notes.db', content);
      expect(answer.status).toBe(422);
      expect(messageOf(answer)).toMatch(/^notes\.db is /);
    }
    expect(readdirSync(join(folder.path, 'data')).filter((file) => file.includes('uploading'))).toEqual([]);
  });

  test('a file over the limit is refused before it is taken, or as soon as it grows past it', async () => {
    const answer = await upload('huge.db', Buffer.from('SQLite format 3\0'), { 'content-length': String(2 * 1024 ** 3) });
    expect(answer.status).toBe(413);
    expect(messageOf(answer)).toContain('--upload-limit');
    const grown = await upload('huge.db', Buffer.concat([Buffer.from('SQLite format 3\0'), Buffer.alloc(2_500_000)]));
    expect(grown.status).toBe(413);
    expect(v.parse(TreeList, (await ask('GET', 'trees')).body).trees.some((tree) => tree.title === 'Huge')).toBe(false);
  });
});

describe('the guard', () => {
  test('another host’s name is refused', async () => {
    const answer = await ask('GET', 'trees', undefined, { host: 'evil.example' });
    expect(answer.status).toBe(403);
    expect(messageOf(answer)).toContain('not as evil.example');
  });

  test('a page of another origin is refused', async () => {
    const answer = await ask('POST', 'trees', { from: 'demo' }, { origin: 'http://evil.example' });
    expect(answer.status).toBe(403);
    expect(messageOf(answer)).toContain('Pages of http://evil.example');
  });

  test('a page carries a strict policy and a nonce of its own', async () => {
    const [first, second] = await Promise.all([1, 2].map(() => fetch(`http://127.0.0.1:${serving.port}/api/trees`)));
    const policy = first?.headers.get('content-security-policy') ?? '';
    expect(policy).toMatch(/default-src 'none';script-src 'self';style-src 'self' 'nonce-/);
    expect(second?.headers.get('content-security-policy')).not.toBe(policy);
  });

  test('beyond this machine a token is needed', async () => {
    const options = { data: join(folder.path, 'token'), port: 0, uploadLimit: 1000, quiet: true };
    await expect(serve({ ...options, host: '0.0.0.0', token: null })).rejects.toThrow('Give a token');
    const guarded = await serve({ ...options, host: '127.0.0.1', token: 'secret' });
    expect((await ask('GET', 'trees', undefined, {}, guarded.port)).status).toBe(401);
    expect((await ask('GET', 'trees', undefined, { authorization: 'Bearer secret' }, guarded.port)).status).toBe(200);
    expect((await ask('GET', 'trees', undefined, { authorization: 'Bearer wrong!' }, guarded.port)).status).toBe(401);
    await guarded.close();
  });
});

test('a full disk is told, and no half of a text is kept', async () => {
  const { Store } = await import('./store/index.js');
  const path = join(folder.path, 'full.db');
  const store = new Store(path);
  const tree = store.add('T', LIBRARY, 'made', null);
  store.close();
  const small = new Database(path);
  const pages = small.pragma('page_count', { simple: true }) as number;
  small.close();
  const full = new Store(path, pages + 1);
  expect(() => full.save(tree.id, 'x'.repeat(100_000), 'T', 1)).toThrow(/full/);
  expect(full.tree(tree.id)).toMatchObject({ revision: 1, text: LIBRARY });
  full.close();
});
