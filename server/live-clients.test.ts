import { readFileSync } from 'node:fs';
import { Ajv2020 } from 'ajv/dist/2020.js';
import addFormats from 'ajv-formats';
import Kitsu from 'kitsu';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { readDesign } from '../core/design/index.js';
import { formats } from '../core/formats/index.js';
import { type LiveServer, serveLive } from '../tests/live-server.js';

const TEXT = readFileSync('demo/library.kin', 'utf8');
let server: LiveServer;
beforeAll(async () => {
  server = await serveLive(TEXT);
}, 120_000);
afterAll(() => server.close());

/** A client that nobody here wrote, which works as somebody. */
function clientAs(as: string): Kitsu {
  return new Kitsu({
    baseURL: server.address,
    camelCaseTypes: false,
    pluralize: false,
    headers: { Actor: as, ...(as === 'system' ? { Authorization: `Bearer ${server.token}` } : {}) },
  });
}

type Read = Readonly<Record<string, unknown>> & { readonly id: string };

test('a client of somebody else lists, reads along, sorts and filters, makes, changes, links and removes', async () => {
  const client = clientAs('system');
  const players = (await client.get('players', {
    params: { include: 'branch', filter: { branch: '1' }, sort: '-name', page: { size: 3 } },
  })) as {
    data: readonly (Read & { branch: { data: Read } })[];
  };
  expect(players.data.map(({ branch }) => branch.data.name)).toEqual(['North Quay', 'North Quay', 'North Quay']);
  const made = (await client.create('players', {
    type: 'players',
    name: 'Ada Client',
    email: 'ada.client@example.org',
    branch: { data: { type: 'branches', id: '2' } },
  })) as { data: Read };
  expect(made.data).toMatchObject({ name: 'Ada Client', steward: false });
  const { id } = made.data;
  await client.update('players', { type: 'players', id, name: 'Ada Changed' });
  const read = (await client.get(`players/${id}`, { params: { include: 'branch' } })) as {
    data: Read & { branch: { data: Read } };
  };
  expect([read.data.name, read.data.branch.data.id]).toEqual(['Ada Changed', '2']);
  await client.delete('players', id);
  await expect(client.get(`players/${id}`)).rejects.toMatchObject({ response: { status: 404 } });
});

test('the same client as a player adds children of its own alone', async () => {
  const own = clientAs('Player(2)');
  const loan = {
    type: 'loans',
    lent_on: '2031-01-01',
    due_on: '2031-02-01',
    instrument: { data: { type: 'instruments', id: '1' } },
  };
  const made = (await own.create('players/2/loans', loan)) as { data: Read };
  const listed = (await own.get('players/2/loans', { params: { page: { size: 100 } } })) as { data: readonly Read[] };
  expect(listed.data.map((one) => one.id)).toContain(made.data.id);
  await expect(clientAs('Player(3)').delete('loans', made.data.id)).rejects.toMatchObject({ response: { status: 404 } });
  await own.delete('loans', made.data.id);
  await expect(own.create('loans', { type: 'loans', lent_on: 'soon', due_on: '2031-02-01' })).rejects.toMatchObject({
    response: { status: 422 },
  });
});

interface Linked {
  readonly links?: Readonly<Record<string, string>>;
  readonly data?: unknown;
  readonly included?: unknown;
}

test.each(['system', 'Player(2)', 'nobody'])(
  'every link of the demo that leads on as %s answers, with resources that are what their schemas say',
  async (as) => {
    const schema = JSON.parse(formats['json-schema'].made(readDesign(TEXT), {})) as object;
    const ajv = addFormats.default(new Ajv2020({ strict: true, allowUnionTypes: true }));
    ajv.addSchema(schema, 'tree');
    const origin = new URL(server.address).origin;
    const headers = { actor: as, ...(as === 'system' ? { authorization: `Bearer ${server.token}` } : {}) };
    const visited = new Set<string>();
    const kinds = new Map<string, number>();
    const wanted = [new URL(server.address).pathname];
    for (const path of wanted) {
      // Of each kind of address a few: the shape is what is looked at, and not each of the rows.
      const kind = path
        .replace(/\?.*$/, '')
        .replace(/\/\d+(?=\/|$)/, '/N')
        .replace(/\/[A-Z]+-\d+[^/]*/, '/N');
      const before = kinds.get(kind) ?? 0;
      if (visited.has(path) || before >= 3) continue;
      kinds.set(kind, before + 1);
      visited.add(path);
      const answer = await fetch(`${origin}${path}`, { headers });
      const document = (await answer.json()) as Linked;
      if (path.includes('/queries/') && answer.status === 400) continue;
      expect({ path, status: answer.status }).toEqual({ path, status: 200 });
      for (const resource of resourcesIn(document)) {
        const validate = ajv.getSchema(`tree#/$defs/${resource.type}`);
        if (validate !== undefined && resource.relationships !== undefined)
          expect({ path, valid: validate(resource), errors: validate.errors }).toEqual({ path, valid: true, errors: null });
        for (const { links } of Object.values(resource.relationships ?? {})) wanted.push(...Object.values(links));
        if (resource.links !== undefined) wanted.push(...Object.values(resource.links));
      }
      wanted.push(...Object.values(document.links ?? {}));
    }
    expect(visited.size).toBeGreaterThan(as === 'nobody' ? 100 : 200);
  },
  240_000,
);

interface Resource {
  readonly type: string;
  readonly links?: Readonly<Record<string, string>>;
  readonly relationships?: Readonly<Record<string, { readonly links: Readonly<Record<string, string>> }>>;
}

function resourcesIn({ data, included }: Linked): readonly Resource[] {
  const list = (part: unknown): readonly unknown[] =>
    Array.isArray(part) ? part : part === null || part === undefined ? [] : [part];
  return [...list(data), ...list(included)] as readonly Resource[];
}
