import { existsSync, mkdirSync, readdirSync, statSync, symlinkSync, writeFileSync } from 'node:fs';
import { connect } from 'node:net';
import { join } from 'node:path';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { temporaryFolder } from '../tests/database.js';
import { type Serving, serve } from './index.js';
import { Store } from './store/index.js';

const folder = temporaryFolder();
const given = join(folder.path, 'given');
const TOKEN = 'a token of the test';
let serving: Serving;
const options = (data: string) => ({
  data: join(folder.path, data),
  host: '127.0.0.1',
  port: 0,
  token: null,
  uploadLimit: 1e6,
  quiet: true,
});
beforeAll(async () => {
  mkdirSync(given);
  serving = await serve({ ...options('data'), folder: given });
});
afterAll(async () => {
  await serving.close();
  folder.remove();
});

/** One request as it stands, since a client would mend it; gives the status and the rest of the answer. */
function raw(head: string, body = '', port = serving.port): Promise<{ status: number; text: string }> {
  return new Promise((resolve, reject) => {
    const socket = connect(port, '127.0.0.1');
    let text = '';
    socket.on('data', (chunk: Buffer) => {
      text += chunk.toString('latin1');
    });
    socket.on('error', reject);
    socket.on('close', () => resolve({ status: Number(/^HTTP\/1\.1 (\d+)/.exec(text)?.[1] ?? 0), text }));
    const length = Buffer.byteLength(body);
    // Not ended: a server takes that for a client that went away.
    socket.write(`${head}\r\nHost: localhost:${port}\r\nConnection: close\r\nContent-Length: ${length}\r\n\r\n${body}`);
  });
}

const json = (path: string, body: string, type = 'application/json') =>
  raw(`POST ${path} HTTP/1.1\r\nContent-Type: ${type}`, body);
const tree = async () =>
  (JSON.parse(/\{.*\}/s.exec((await json('/api/trees', '{"from":"demo"}')).text)?.[0] ?? '{}') as { id: string }).id;

describe('a request that is not well formed is the request’s own fault', () => {
  test.each([
    ['a charset that nobody has', () => json('/api/trees', '{"from":"demo"}', 'application/json; charset=klingon')],
    [
      'an encoding that nobody has',
      () => raw('POST /api/trees HTTP/1.1\r\nContent-Type: application/json\r\nContent-Encoding: zstd-9', '{}'),
    ],
    [
      'a body that is no gzip',
      () => raw('POST /api/trees HTTP/1.1\r\nContent-Type: application/json\r\nContent-Encoding: gzip', 'not gzip'),
    ],
    ['half an escape', () => raw('GET /api/trees/%zz HTTP/1.1')],
    ['half an escape in a page', () => raw('GET /%E0%A4%A HTTP/1.1')],
    ['U+0000 in a path', () => raw('GET /api/trees/%00 HTTP/1.1')],
    ['U+0000 in the path of a file', () => json('/api/files', '{"path":"a\\u0000.kin"}')],
    ['U+0000 in the path of a database', () => json('/api/databases', '{"path":"a\\u0000.db"}')],
    ['a body that is no object', () => json('/api/trees', '"x"')],
    ['a body that is no JSON', () => json('/api/trees', '{')],
    ['a text with U+0000', () => json('/api/trees', JSON.stringify({ from: 'text', text: "tree 'a\0b'\n" }))],
    ['a text with half a character', () => json('/api/trees', '{"from":"text","text":"\\ud800"}')],
  ])('%s', async (_name, send) => {
    const { status } = await send();
    expect(status).toBeGreaterThanOrEqual(400);
    expect(status).toBeLessThan(500);
  });

  test('parameters of any names arrive', async () => {
    const id = await tree();
    const query = { kind: 'text', text: 'from Player\nwhere name = :constructor', head: 'constructor text' };
    const { text } = await json(`/api/trees/${id}/run`, JSON.stringify({ query, parameters: { constructor: 'nobody' } }));
    expect(text).toContain('"ok":true');
    const other = { kind: 'text', text: 'from Player\nwhere name = :__proto__', head: '__proto__ text' };
    const answer = await json(`/api/trees/${id}/run`, `{"query":${JSON.stringify(other)},"parameters":{"__proto__":"nobody"}}`);
    expect(answer.text).toContain('"ok":true');
  });
});

test('the address that shows the token leads to this server alone', async () => {
  const guarded = await serve({ ...options('guarded'), token: TOKEN });
  for (const path of ['//elsewhere.example/', '/\\elsewhere.example/', '///elsewhere.example']) {
    const { status, text } = await raw(`GET ${path}?token=${encodeURIComponent(TOKEN)} HTTP/1.1`, '', guarded.port);
    expect(status).toBe(302);
    expect(/^location: (.*)$/im.exec(text)?.[1]?.trim()).toMatch(/^\/(?![/\\])/);
  }
  expect((await raw(`GET /api/trees HTTP/1.1\r\nCookie: family_tree_token=%zz`, '', guarded.port)).status).toBe(401);
  await guarded.close();
});

describe('the data folder', () => {
  test('is one server’s: another is told which, and takes nothing', async () => {
    await expect(serve(options('data'))).rejects.toThrow(/Another Family Tree \(process \d+\) is running over/);
    expect(await tree()).toBeDefined();
  });

  test('is its owner’s alone to read', async () => {
    await tree();
    const data = join(folder.path, 'data');
    expect(statSync(data).mode & 0o077).toBe(0);
    for (const name of readdirSync(data)) expect([name, statSync(join(data, name)).mode & 0o077]).toEqual([name, 0]);
  });

  test('whose store is damaged keeps it under another name, begins a new one, and removes nothing', async () => {
    const data = join(folder.path, 'damaged');
    const upload = `${'0'.repeat(8)}-0000-0000-0000-${'0'.repeat(12)}.db`;
    mkdirSync(data);
    writeFileSync(join(data, 'family-tree.db'), `SQLite format 3\0${'x'.repeat(5000)}`);
    writeFileSync(join(data, upload), 'somebody’s');
    const begun = await serve(options('damaged'));
    await begun.close();
    const names = readdirSync(data);
    expect(names.filter((name) => name.startsWith('family-tree.db.damaged-'))).toHaveLength(1);
    expect(names).toContain(upload);
  });

  test('keeps at the next start what a tree has come to have, and nothing that was begun for none', async () => {
    const data = join(folder.path, 'begun');
    mkdirSync(data);
    const before = new Store(join(data, 'family-tree.db'));
    for (const name of ['kept.db', 'begun.db']) {
      writeFileSync(join(data, name), '');
      before.noteFile(name);
    }
    before.add('Kept', "tree 'Kept'\n", 'brought in', 'kept.db');
    before.close();
    const begun = await serve(options('begun'));
    await begun.close();
    expect(readdirSync(data).filter((name) => /^(kept|begun)/.test(name))).toEqual(['kept.db']);
  });

  test('whose store is gone keeps what was uploaded', async () => {
    const data = join(folder.path, 'gone');
    const upload = `${'1'.repeat(8)}-0000-0000-0000-${'0'.repeat(12)}.postgres`;
    mkdirSync(join(data, upload), { recursive: true });
    // The store is a new one at the first start, and knows of nothing at the second.
    for (let start = 1; start <= 2; start++) {
      const begun = await serve(options('gone'));
      await begun.close();
      expect(existsSync(join(data, upload))).toBe(true);
    }
  });
});

test('of a folder that was given, regular files that really lie below it are opened, and no others', async () => {
  writeFileSync(join(folder.path, 'outside.kin'), "tree 'Outside'\n");
  symlinkSync(join(folder.path, 'outside.kin'), join(given, 'link.kin'));
  mkdirSync(join(given, 'folder.kin'));
  writeFileSync(join(given, 'bytes.kin'), Buffer.from([0x74, 0xff, 0xfe]));
  const { execFileSync } = await import('node:child_process');
  execFileSync('mkfifo', [join(given, 'pipe.kin'), join(given, 'pipe.db')]);
  const statusOf = async (path: string) => (await json('/api/files', JSON.stringify({ path }))).status;
  expect(await statusOf('link.kin')).toBe(403);
  expect(await statusOf('../outside.kin')).toBe(403);
  for (const path of ['folder.kin', 'pipe.kin', 'bytes.kin', 'nothing.kin'])
    expect([path, await statusOf(path)]).toEqual([path, 422]);
  expect((await json('/api/databases', '{"path":"pipe.db"}')).status).toBe(422);
});

/** How many requests of each sort are sent; more with REQUESTS in the environment. */
const REQUESTS = Number(process.env.REQUESTS ?? 6_000);

test('no request, whatever stands in it, is answered as a fault of this program', async () => {
  const id = await tree();
  const word = fc.constantFrom(
    'trees',
    id,
    'run',
    'rows',
    'counts',
    'text',
    'revisions',
    '1',
    '-1',
    '9e9',
    'constructor',
    '__proto__',
    '%00',
    '%2e%2e',
    '..',
    'databases',
    'files',
    'preferences',
    'sql',
    'database',
    'entities',
    'Player',
    'kinds',
    'relations',
    'choices',
    'again',
    'progress',
    'x'.repeat(300),
    '%F0%9F%8E%BB',
  );
  const path = fc.array(word, { minLength: 1, maxLength: 5 }).map((words) => words.join('/'));
  const value = fc.oneof(
    fc.jsonValue({ maxDepth: 3 }),
    fc.record(
      {
        query: fc.record({
          kind: fc.constantFrom('saved', 'text', 'sql'),
          name: fc.string(),
          text: fc.string(),
          head: fc.string(),
        }),
        parameters: fc.dictionary(fc.string(), fc.string()),
      },
      { requiredKeys: [] },
    ),
    fc.record(
      {
        entity: fc.constantFrom('Player', 'Nobody', 'constructor'),
        where: fc.string(),
        orderBy: fc.string(),
        via: fc.constant(null),
        key: fc.string(),
        from: fc.nat(),
        count: fc.nat({ max: 600 }),
      },
      { requiredKeys: ['entity'] },
    ),
    fc.record(
      { text: fc.string({ unit: 'grapheme' }), basedOn: fc.oneof(fc.nat(), fc.double()), overFile: fc.string() },
      { requiredKeys: ['text'] },
    ),
    fc.record(
      { from: fc.constantFrom('empty', 'nowhere', 'text'), title: fc.string(), text: fc.string() },
      { requiredKeys: ['from'] },
    ),
    fc.record({
      address: fc.string(),
      password: fc.constant(null),
      label: fc.string(),
      unlocked: fc.boolean(),
      keepPassword: fc.boolean(),
    }),
  );
  const requests = fc.sample(fc.tuple(fc.constantFrom('GET', 'POST', 'PUT', 'PATCH', 'DELETE'), path, value), {
    numRuns: REQUESTS,
    seed: 5,
  });
  const faults: unknown[] = [];
  const send = async ([method, address, body]: (typeof requests)[number]) => {
    // What leaves the folder of the interface asks for the page, which may not be built.
    if (/progress|events/.test(address) || !new URL(`http://x/api/${address}`).pathname.startsWith('/api/')) return;
    const answer = await fetch(`http://127.0.0.1:${serving.port}/api/${address}`, {
      method,
      headers: { 'content-type': 'application/json' },
      ...(method === 'GET' ? {} : { body: JSON.stringify(body) }),
    });
    await answer.arrayBuffer();
    if (answer.status >= 500) faults.push([answer.status, method, address, body]);
  };
  for (let at = 0; at < requests.length; at += 8) await Promise.all(requests.slice(at, at + 8).map(send));
  expect(faults).toEqual([]);
}, 1_200_000);
