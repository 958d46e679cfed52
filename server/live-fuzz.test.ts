import { Agent, request as httpRequest } from 'node:http';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { resourcesOf } from '../core/live/index.js';
import { namedKeys } from '../core/samples/index.js';
import { type Engine, openSqlite } from '../engines/index.js';
import { AUDITED_LIBRARY } from '../tests/audited-library.js';
import { makeTestDatabase, type TestDatabase } from '../tests/database.js';
import { type ServingLive, serveLive } from './index.js';

/** How many malformed requests are sent: `FUZZED=100000 npx vitest run server/live-fuzz`. */
const FUZZED = Number(process.env.FUZZED ?? 3000);
const SEED = Number(process.env.SEED ?? 21);
const TOGETHER = 16;
const MEDIA = 'application/vnd.api+json';
const NOW = '2031-04-12T09:00:00.000000Z';

let database: TestDatabase;
let writer: Engine;
let serving: ServingLive;
beforeAll(async () => {
  database = await makeTestDatabase(AUDITED_LIBRARY);
  const { design, engine, path } = database;
  writer = openSqlite({ path, mode: 'write', milliseconds: 20_000 });
  const toWrite = () => ({ engine: writer, close: () => Promise.resolve() });
  const open = { design, engine, sampleKeys: namedKeys(design.model, NOW), madeHere: true, schemas: null, revision: 1, toWrite };
  serving = await serveLive({ name: 'library', open, host: '127.0.0.1', port: 0, token: null, origins: [], rate: 1_000_000 });
}, 60_000);
afterAll(async () => {
  await serving.close();
  await writer.close();
  await database.close();
});

interface Sent {
  readonly method: string;
  readonly path: string;
  readonly headers: Readonly<Record<string, string>>;
  readonly body: string;
}

const agent = new Agent({ keepAlive: true, maxSockets: TOGETHER });

function send({
  method,
  path,
  headers,
  body,
}: Sent): Promise<{ readonly status: number; readonly type: string; readonly text: string }> {
  const { hostname, port, pathname } = new URL(serving.address);
  return new Promise((done, failed) => {
    const length = { 'content-length': String(Buffer.byteLength(body)) };
    const asking = httpRequest(
      { hostname, port, method, path: `${pathname}${path}`, headers: { ...headers, ...length }, agent },
      (answer) => {
        const parts: Buffer[] = [];
        answer.on('data', (part: Buffer) => parts.push(part));
        answer.on('end', () =>
          done({
            status: answer.statusCode ?? 0,
            type: answer.headers['content-type'] ?? '',
            text: Buffer.concat(parts).toString(),
          }),
        );
      },
    );
    asking.on('error', failed);
    asking.end(body);
  });
}

/** What a client may get wrong: names that are nearly right, ids that are none, and anything at all. */
function requests(): fc.Arbitrary<Sent> {
  const types = Array.from(resourcesOf(database.design.model).byName.values());
  const names = fc.constantFrom(...types.map(({ name }) => name));
  const members = fc.constantFrom(
    ...types.flatMap(({ attributes, relationships }) => [...attributes, ...relationships].map(({ member }) => member)),
  );
  const odd = fc.oneof(
    fc.string(),
    fc.string({ unit: 'binary' }),
    fc.constantFrom('', '.', '..', "'", '"', ')', '--', ';', '\u0000', '%', '🎻', '1e9', '-1', 'null', '{}', '[]'),
  );
  const segment = fc.oneof(
    { weight: 3, arbitrary: names },
    { weight: 2, arbitrary: members },
    fc.nat().map(String),
    fc.constantFrom('relationships', 'queries', 'operations'),
    odd,
  );
  const name = fc.oneof(
    fc.constantFrom('include', 'sort', 'filter', 'page[size]', 'page[number]', 'page[after]', 'page[total]', 'by'),
    members.map((member) => `filter[${member}]`),
    names.map((one) => `fields[${one}]`),
    odd,
  );
  const value = fc.oneof(
    members,
    fc.array(members, { maxLength: 3 }).map((all) => all.join('.')),
    fc.nat().map(String),
    odd,
    fc.string().map((one) => `name = '${one}' or (`),
  );
  const encoded = (text: string) => encodeURIComponent(text.replace(/[\ud800-\udfff]/g, ''));
  const path = fc
    .tuple(fc.array(segment, { maxLength: 5 }), fc.array(fc.tuple(name, value), { maxLength: 4 }), fc.boolean())
    .map(([segments, parameters, raw]) => {
      const query = parameters.map(([one, given]) => `${encoded(one)}=${encoded(given)}`).join('&');
      const parts = segments.map((one) => (raw ? one.replace(/[^\x21-\x7e]|[?#]/g, '') : encoded(one)));
      return `/${parts.join('/')}${query === '' ? '' : `?${query}`}`;
    });
  const json: fc.Arbitrary<unknown> = fc.jsonValue();
  // A member that no resource has, so that nothing of it may be written.
  const attributes = fc.dictionary(members, json, { maxKeys: 3 }).map((given) => ({ ...given, no_such_member: 1 }));
  const identifier = fc.record({ type: fc.oneof(names, json), id: fc.oneof(fc.nat().map(String), json) });
  const resource = fc.record({
    type: fc.oneof(names, json),
    id: fc.oneof(fc.nat().map(String), json),
    attributes: fc.oneof({ weight: 4, arbitrary: attributes }, fc.constantFrom<unknown>(null, 1, [])),
    relationships: fc.oneof(
      fc.dictionary(members, fc.record({ data: fc.oneof(identifier, fc.array(identifier, { maxLength: 2 }), json) }), {
        maxKeys: 2,
      }),
      json,
    ),
  });
  const operation = fc.record({ op: fc.oneof(fc.constantFrom('add', 'update', 'remove'), json), data: resource, ref: json });
  const body = fc.oneof(
    resource.map((data) => JSON.stringify({ data })),
    fc.array(operation, { maxLength: 3 }).map((all) => JSON.stringify({ 'atomic:operations': all })),
    json.map((one) => JSON.stringify(one)),
    fc.string(),
  );
  const media = fc.oneof(
    { weight: 6, arbitrary: fc.constant(MEDIA) },
    fc.constantFrom(`${MEDIA}; ext="https://jsonapi.org/ext/atomic"`, 'application/json', `${MEDIA};x`, ';'),
  );
  const as = fc.constantFrom('system', 'nobody', 'Player(1)', '3', 'Player(', "Player('", '%', 'x'.repeat(300));
  return fc
    .record({
      // A delete, and a linkage of nothing, can be well formed, whatever the body: they are asked of what there is not.
      method: fc.constantFrom('GET', 'POST', 'PATCH', 'PUT', 'OPTIONS', 'HEAD'),
      path,
      headers: fc
        .tuple(media, as)
        .map(([type, actor]) => ({ 'content-type': type, actor, authorization: `Bearer ${serving.token}` })),
      body,
    })
    .map((sent) => (sent.method === 'GET' || sent.method === 'HEAD' ? { ...sent, body: '' } : sent));
}

/** All rows, as they are to be afterwards. */
async function allRows(): Promise<string> {
  const all: unknown[] = [];
  for (const entity of database.design.model.entities.keys()) all.push(await database.rows(`from ${entity}`));
  return JSON.stringify(all);
}

test(
  'whatever a client gets wrong is told as the standard has it, is no fault of the server, and writes nothing',
  async () => {
    const before = await allRows();
    const statuses = new Map<number, number>();
    const all = fc.sample(requests(), { numRuns: FUZZED, seed: SEED });
    for (let at = 0; at < all.length; at += TOGETHER)
      await Promise.all(
        all.slice(at, at + TOGETHER).map(async (sent) => {
          const { status, type, text } = await send(sent);
          statuses.set(status, (statuses.get(status) ?? 0) + 1);
          expect({ sent, status: status < 500 }).toEqual({ sent, status: true });
          if (status < 400 || sent.method === 'HEAD') return;
          expect({ sent, type }).toEqual({ sent, type: MEDIA });
          const { errors } = JSON.parse(text) as { errors?: readonly { status: string }[] };
          expect(errors?.length).toBeGreaterThan(0);
        }),
      );
    expect(Array.from(statuses.keys())).toEqual(expect.arrayContaining([400, 404, 405, 415, 422]));
    expect(await allRows()).toBe(before);
  },
  Math.max(120_000, FUZZED * 20),
);
