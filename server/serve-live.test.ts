import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { namedKeys } from '../core/samples/index.js';
import { openSqlite } from '../engines/index.js';
import { AUDITED_LIBRARY } from '../tests/audited-library.js';
import { makeTestDatabase, type TestDatabase } from '../tests/database.js';
import { type Engines, makeOn, openEngines } from '../tests/engines.js';
import { serveLive } from './index.js';

const NOW = '2031-04-12T09:00:00.000000Z';
const MEDIA = 'application/vnd.api+json';
const ORIGIN = 'http://client.example';

let database: TestDatabase;
beforeAll(async () => {
  database = await makeTestDatabase(AUDITED_LIBRARY);
}, 60_000);
afterAll(() => database.close());

/** Serves the library’s rows alone. */
async function serving(token: string | null, rate = 2000) {
  const { design, engine, path } = database;
  const writer = openSqlite({ path, mode: 'write', milliseconds: 20_000 });
  const open = {
    design,
    engine,
    sampleKeys: namedKeys(design.model, NOW),
    madeHere: true,
    schemas: null,
    revision: 1,
    toWrite: () => ({ engine: writer, close: () => Promise.resolve() }),
  };
  const served = await serveLive({ name: 'library', open, host: '127.0.0.1', port: 0, token, origins: [ORIGIN], rate });
  return {
    ...served,
    close: async () => {
      await served.close();
      await writer.close();
    },
  };
}

describe('an endpoint without the workbench', () => {
  test('answers at its address, with the token alone as the system, and writes', async () => {
    const { address, token, close } = await serving(null);
    try {
      const system = { actor: 'system', authorization: `Bearer ${token}` };
      const loans = await fetch(`${address}/loans`, { headers: { actor: 'Player(1)' } });
      expect(((await loans.json()) as { data: readonly { id: string }[] }).data.map(({ id }) => id)).toEqual(['1', '3']);
      expect((await fetch(`${address}/loans`, { headers: { actor: 'system' } })).status).toBe(401);
      expect(((await (await fetch(`${address}/loans`, { headers: system })).json()) as { data: unknown[] }).data).toHaveLength(5);
      const made = await fetch(`${address}/branches`, {
        method: 'POST',
        headers: { ...system, 'content-type': MEDIA },
        body: JSON.stringify({ data: { type: 'branches', attributes: { name: 'Kiln Row' } } }),
      });
      expect(made.status).toBe(201);
      expect((await fetch(address.replace('/live/library', '/live/other'))).status).toBe(404);
    } finally {
      await close();
    }
  });

  test('nothing is found, sorted or told by a field that is hidden', async () => {
    const { address, token, close } = await serving(null);
    try {
      const headers = { actor: 'system', authorization: `Bearer ${token}` };
      const status = async (query: string) => (await fetch(`${address}/${query}`, { headers })).status;
      const oskar = await fetch(`${address}/players?filter=${encodeURIComponent("name = 'pin' or email like 'oskar%'")}`, {
        headers,
      });
      expect([oskar.status, (await oskar.text()).includes('1111')]).toEqual([200, false]);
      const conditions = [
        "pin = '1111'",
        "pin like '1%'",
        '"pin" like \'1%\'',
        "any(players[pin like '1%'])",
        "branch.name = 'x' or PIN is null",
      ];
      for (const condition of conditions)
        for (const type of ['players', 'branches'])
          expect({ type, condition, status: await status(`${type}?filter=${encodeURIComponent(condition)}`) }).toEqual({
            type,
            condition,
            status: 400,
          });
      for (const query of ['players?sort=pin', 'players?filter[pin]=1111', 'players?fields[players]=pin'])
        expect(await status(query)).toBe(400);
    } finally {
      await close();
    }
  });

  test('with a token lets nobody in who does not show it, and tells so as the standard has it', async () => {
    const { address, close } = await serving('a secret');
    try {
      const refused = await fetch(`${address}/branches`);
      expect([refused.status, refused.headers.get('content-type')]).toEqual([401, MEDIA]);
      expect((await fetch(`${address}/branches`, { headers: { authorization: 'Bearer a secret' } })).status).toBe(200);
    } finally {
      await close();
    }
  });

  test('lets pages of the origins that were told ask, and no others', async () => {
    const { address, close } = await serving(null);
    try {
      const preflight = await fetch(`${address}/players`, {
        method: 'OPTIONS',
        headers: { origin: ORIGIN, 'access-control-request-method': 'POST' },
      });
      expect([preflight.status, preflight.headers.get('access-control-allow-origin')]).toEqual([204, ORIGIN]);
      const asked = await fetch(`${address}/players`, { headers: { origin: ORIGIN, actor: 'Player(1)' } });
      expect([asked.status, asked.headers.get('access-control-allow-origin')]).toEqual([200, ORIGIN]);
      const other = await fetch(`${address}/players`, { headers: { origin: 'http://other.example' } });
      expect([other.status, other.headers.get('access-control-allow-origin')]).toEqual([403, null]);
    } finally {
      await close();
    }
  });

  test('lets so many requests in within a second', async () => {
    const { address, close } = await serving(null, 5);
    try {
      const statuses = await Promise.all(Array.from({ length: 12 }, async () => (await fetch(`${address}/branches`)).status));
      expect([statuses.filter((status) => status === 200).length, statuses.filter((status) => status === 429).length]).toEqual([
        5, 7,
      ]);
    } finally {
      await close();
    }
  });
});

describe.each(['postgres', 'mariadb'] as const)('over %s', (name) => {
  let engines: Engines;
  beforeAll(() => {
    engines = openEngines(inject('servers'));
  });
  afterAll(() => engines.close());

  test('a client reads along, makes, changes, links and removes, and walls hold', async () => {
    const { design, database: made, made: rows } = await makeOn(engines, name, AUDITED_LIBRARY);
    const { engine } = made;
    const toWrite = () => ({ engine, close: () => Promise.resolve() });
    const open = { design, engine, sampleKeys: rows.sampleKeys, madeHere: true, schemas: null, revision: 1, toWrite };
    const { address, token, close } = await serveLive({
      name: 'library',
      open,
      host: '127.0.0.1',
      port: 0,
      token: null,
      origins: [],
      rate: 2000,
    });
    const ask = async (method: string, path: string, as = 'system', body?: unknown) => {
      const answer = await fetch(`${address}/${path}`, {
        method,
        headers: { actor: as, authorization: `Bearer ${token}`, ...(body === undefined ? {} : { 'content-type': MEDIA }) },
        ...(body === undefined ? {} : { body: JSON.stringify(body) }),
      });
      const text = await answer.text();
      return {
        status: answer.status,
        document: (text === '' ? {} : JSON.parse(text)) as { data: { id: string }[] & { id: string } },
      };
    };
    try {
      expect(
        (await ask('GET', 'loans?include=borrower.branch,thing&sort=-fee', 'Player(1)')).document.data.map(({ id }) => id),
      ).toEqual(['3', '1']);
      expect((await ask('GET', 'loans/4', 'Player(1)')).status).toBe(404);
      const loan = (fee: number) => ({ data: { type: 'loans', attributes: { fee } } });
      const added = await ask('POST', 'players/1/loans', 'Player(1)', loan(7));
      expect(added.status).toBe(201);
      const { id } = added.document.data;
      const changed = { data: { type: 'loans', id, attributes: { fee: 8 } } };
      expect((await ask('PATCH', `loans/${id}`, 'Player(3)', changed)).status).toBe(404);
      expect((await ask('PATCH', `loans/${id}`, 'Player(1)', changed)).status).toBe(200);
      // What is written stays within the walls of whoever writes it.
      expect(
        (await ask('PATCH', `loans/${id}`, 'Player(1)', { data: { type: 'loans', id, attributes: { fee: 80 } } })).status,
      ).toBe(403);
      expect((await ask('DELETE', `loans/${id}`, 'Player(1)')).status).toBe(204);
      const player = {
        data: {
          type: 'players',
          attributes: { name: 'Two', email: 'ines@example.org' },
          relationships: { branch: { data: { type: 'branches', id: '1' } } },
        },
      };
      expect((await ask('POST', 'players', 'system', player)).status).toBe(409);
    } finally {
      await close();
      await made.remove();
    }
  }, 120_000);
});
