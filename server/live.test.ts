import { readFileSync } from 'node:fs';
import * as v from 'valibot';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { type LiveState, Tree } from '../contract/index.js';
import { type LiveServer, serveLive } from '../tests/live-server.js';

const MEDIA = 'application/vnd.api+json';
let server: LiveServer;
let state: LiveState;
const page = (...asked: Parameters<LiveServer['page']>) => server.page(...asked);

beforeAll(async () => {
  server = await serveLive(readFileSync('demo/library.kin', 'utf8'));
  state = await server.state();
}, 120_000);
afterAll(() => server.close());

interface Resource {
  readonly type: string;
  readonly id: string;
  readonly attributes: Readonly<Record<string, unknown>>;
  readonly relationships: Readonly<Record<string, { readonly data?: unknown; readonly meta?: unknown }>>;
}

interface Document {
  readonly data: Resource & readonly Resource[];
  readonly included?: readonly Resource[];
  readonly links: Readonly<Record<string, string>>;
  readonly meta?: Readonly<Record<string, unknown>>;
  readonly errors?: readonly { readonly status: string; readonly detail: string; readonly source?: unknown }[];
}

interface Told {
  readonly status: number;
  readonly headers: Headers;
  readonly text: string;
  readonly document: Document;
}

interface Asked {
  readonly as?: string;
  readonly body?: unknown;
  readonly headers?: Readonly<Record<string, string>>;
}

/** Asks the endpoint as somebody; as the system with the server’s token. */
async function ask(method: string, path: string, { as = 'system', body, headers = {} }: Asked = {}): Promise<Told> {
  const answer = await fetch(path.startsWith('/live') ? new URL(path, server.address).href : `${server.address}/${path}`, {
    method,
    headers: {
      ...(as === '' ? {} : { actor: as }),
      ...(as === 'system' ? { authorization: `Bearer ${state.token}` } : {}),
      ...(body === undefined ? {} : { 'content-type': MEDIA }),
      ...headers,
    },
    ...(body === undefined ? {} : { body: typeof body === 'string' ? body : JSON.stringify(body) }),
  });
  const text = await answer.text();
  return { status: answer.status, headers: answer.headers, text, document: (text === '' ? {} : JSON.parse(text)) as Document };
}

const statusOf = async (...asked: Parameters<typeof ask>) => (await ask(...asked)).status;
const idsIn = ({ document }: Told) => document.data.map(({ id }) => id);
const player = (attributes: object, relationships: object = { branch: { data: { type: 'branches', id: '1' } } }) => ({
  data: { type: 'players', attributes, relationships },
});

describe('what is read', () => {
  test('a collection has pages by number with their links, and how many there are where that is asked for', async () => {
    const first = await ask('GET', 'players?page[size]=100&page[total]=true&sort=id');
    expect(first.headers.get('content-type')).toBe(MEDIA);
    expect([first.document.data.length, first.document.meta]).toEqual([100, { total: 180 }]);
    expect(Object.keys(first.document.links)).toEqual(['self', 'first', 'next', 'last']);
    const second = await ask('GET', first.document.links.next ?? '');
    expect(second.document.data.length).toBe(80);
    expect(Object.keys(second.document.links)).toEqual(['self', 'first', 'prev', 'last']);
    expect(new Set([...idsIn(first), ...idsIn(second)]).size).toBe(180);
  });

  /** All pages of what stands behind a cursor, from the first on. */
  async function walked(path: string, as: string): Promise<readonly string[]> {
    const ids: string[] = [];
    let next: string | undefined = path;
    for (let pages = 0; next !== undefined && pages < 20; pages++) {
      const told: Told = await ask('GET', next, { as });
      expect(told.status).toBe(200);
      ids.push(...idsIn(told));
      next = told.document.links.next;
    }
    return ids;
  }

  test.each([
    ['id', 'system'],
    ['-due_on', 'system'],
    ['returned_on', 'system'],
    ['-returned_on', 'system'],
    ['-returned_on,lent_on', 'system'],
    ['borrower.name', 'system'],
    ['borrower.mentor.name,-lent_on', 'system'],
    ['-borrower.mentor.branch.name,lent_on', 'system'],
    ['-borrower.mentor.name', 'Player(3)'],
    ['instrument.name', 'Player(2)'],
  ])('pages behind a cursor, sorted by %s as %s, have each row once, in the order of one page', async (sort, as) => {
    const whole = await walked(`loans?page[size]=500&sort=${sort}`, as);
    const size = Math.max(2, Math.ceil(whole.length / 9));
    expect(whole.length).toBeGreaterThan(1);
    expect(await walked(`loans?page[after]=&page[size]=${size}&sort=${sort}`, as)).toEqual(whole);
  });

  test.each([
    ['branches/1/players', '', 'system'],
    ['branches/1/players', '-mentor.name', 'system'],
    ['branches/1/loans', 'borrower.name,-lent_on', 'system'],
    ['ensembles/1/players', '-name', 'Player(3)'],
    ['ensembles/1/relationships/players', 'mentor.name', 'system'],
  ])('the same behind a relationship: %s sorted by “%s” as %s', async (path, sort, as) => {
    const sorted = sort === '' ? '' : `&sort=${sort}`;
    const whole = idsIn(await ask('GET', `${path}?page[size]=500${sorted}`, { as }));
    expect(whole.length).toBeGreaterThan(3);
    const size = Math.ceil(whole.length / 7);
    expect(await walked(`${path}?page[after]=&page[size]=${size}${sorted}`, as)).toEqual(whole);
  });

  test('what is included is told once, is linked to, and costs a statement for each role, however many rows there are', async () => {
    const statements: number[] = [];
    for (const size of [3, 300]) {
      const { document } = await ask('GET', `loans?include=borrower.branch,instrument.tags&page[size]=${size}`);
      const linked = new Set<string>();
      const all = [...document.data, ...(document.included ?? [])];
      for (const { relationships } of all)
        for (const { data } of Object.values(relationships))
          for (const one of Array.isArray(data) ? data : [data ?? []].flat())
            linked.add(`${(one as Resource).type} ${(one as Resource).id}`);
      const places = (document.included ?? []).map(({ type, id }) => `${type} ${id}`);
      expect(new Set(places).size).toBe(places.length);
      expect(places.filter((place) => !linked.has(place))).toEqual([]);
      const { requests } = await server.state();
      statements.push(requests[0]?.log.length ?? 0);
      // Each statement is told with what filled its values.
      expect(requests[0]?.log[0]?.values).toContain(`size = ${size + 1}`);
    }
    expect(statements).toEqual([5, 5]);
  });

  test('rows are filtered by a condition of the notation, or by a member and its value; and sorted over a role', async () => {
    const overdue = await ask(
      'GET',
      `loans?filter=${encodeURIComponent("overdue and borrower.branch.name = 'North Quay'")}&page[total]=true`,
    );
    expect(overdue.document.meta?.total).toBeGreaterThan(5);
    const north = await ask('GET', 'players?filter[branch]=1&page[size]=200');
    for (const { relationships } of north.document.data)
      expect(relationships.branch?.data).toEqual({ type: 'branches', id: '1' });
    expect(idsIn(await ask('GET', 'players?filter[name]=Nils%20Heath&filter[name]=Omar%20Marsh&sort=name'))).toEqual(['3', '2']);
    const sorted = await ask(
      'GET',
      'loans?sort=-borrower.branch.name,borrower.name&include=borrower.branch&page[size]=5&fields[loans]=borrower',
    );
    expect(sorted.document.included?.filter(({ type }) => type === 'branches').map(({ attributes }) => attributes.name)).toEqual([
      'South Gate',
    ]);
  });

  test('only the members that are asked for are told, of each type', async () => {
    const { document } = await ask('GET', 'players/3?include=branch&fields[players]=name,branch&fields[branches]=town');
    expect(Object.keys(document.data.attributes)).toEqual(['name']);
    expect(Object.keys(document.data.relationships)).toEqual(['branch']);
    expect(document.included?.map(({ attributes, relationships }) => ({ attributes, relationships }))).toEqual([
      { attributes: { town: 'Ferren' }, relationships: {} },
    ]);
  });

  test('kinds are types of their own below the collection of their base, and what a role leads to has its real type', async () => {
    const all = await ask('GET', 'instruments?page[size]=100');
    expect(new Set(all.document.data.map(({ type }) => type))).toEqual(new Set(['string_instruments', 'wind_instruments']));
    const subject = await ask('GET', 'remarks/1/subject');
    expect(subject.document.data).toMatchObject({ type: 'ensembles', id: '1' });
    const players = await ask('GET', 'ensembles/3/relationships/players?page[size]=2');
    expect(players.document.data).toEqual([
      { type: 'players', id: '88', meta: { chair: 1, since: '2030-11-01' } },
      { type: 'players', id: '122', meta: { chair: 3, since: '2030-05-19' } },
    ]);
    expect(idsIn(await ask('GET', players.document.links.next ?? ''))).toEqual(['147', '11']);
  });

  test('a saved query is a collection that is read, with its parameters', async () => {
    const { document } = await ask('GET', 'queries/overdue_by_branch?branch=1');
    expect(document.data.length).toBeGreaterThan(5);
    expect(document.included?.some(({ type }) => type === 'branches')).toBe(true);
    const flat = await ask('GET', 'queries/busiest_branches');
    expect(flat.document.data[0]).toMatchObject({ type: 'busiest_branches', attributes: { branch: 'Hill Chapel' } });
    expect(await statusOf('GET', 'queries/overdue_by_branch?branch=North')).toBe(400);
    expect(await statusOf('GET', 'queries/nothing')).toBe(404);
    expect(await statusOf('POST', 'queries/busiest_branches', { body: {} })).toBe(405);
  });

  test('a tag tells whether a resource is as it was', async () => {
    const first = await ask('GET', 'players/3');
    const tag = first.headers.get('etag') ?? '';
    expect(await statusOf('GET', 'players/3', { headers: { 'if-none-match': tag } })).toBe(304);
    const body = { data: { type: 'players', id: '3', attributes: { name: 'Nils H' } } };
    expect(await statusOf('PATCH', 'players/3', { body, headers: { 'if-match': '"other"' } })).toBe(412);
    expect(await statusOf('PATCH', 'players/3', { body, headers: { 'if-match': tag } })).toBe(200);
    expect(await statusOf('PATCH', 'players/3', { body, headers: { 'if-match': tag } })).toBe(412);
  });
});

describe('what is written', () => {
  test('a player’s children are added through the player, listed and removed; another’s are refused', async () => {
    const loan = {
      data: {
        type: 'loans',
        attributes: { lent_on: '2031-01-01', due_on: '2031-02-01' },
        relationships: { instrument: { data: { type: 'instruments', id: '1' } } },
      },
    };
    const made = await ask('POST', 'players/2/loans', { as: 'Player(2)', body: loan });
    expect(made.status).toBe(201);
    expect(made.document.data.relationships.borrower?.data).toEqual({ type: 'players', id: '2' });
    const { id } = made.document.data;
    expect(made.headers.get('location')).toBe(`${state.base}/loans/${id}`);
    expect(idsIn(await ask('GET', 'players/2/loans?page[size]=50', { as: '2' }))).toContain(id);
    for (const method of ['GET', 'DELETE']) expect(await statusOf(method, `loans/${id}`, { as: 'Player(3)' })).toBe(404);
    expect(await statusOf('POST', 'players/2/loans', { as: 'Player(3)', body: loan })).toBe(404);
    expect(await statusOf('DELETE', `loans/${id}`, { as: 'Player(2)' })).toBe(204);
    expect(await statusOf('GET', `loans/${id}`, { as: 'Player(2)' })).toBe(404);
  });

  test('what may be read and not written is 403, and nobody who says so is the system', async () => {
    const body = { data: { type: 'remarks', id: '1', attributes: { body: 'Mine' } } };
    expect(await statusOf('PATCH', 'remarks/1', { as: 'Player(2)', body })).toBe(403);
    expect(await statusOf('PATCH', 'remarks/1', { as: '', body })).toBe(403);
    expect(await statusOf('GET', 'players/1', { as: '' })).toBe(404);
    const spoken = await ask('GET', 'players/1', { as: '', headers: { actor: 'system' } });
    expect([spoken.status, spoken.document.errors?.[0]?.source]).toEqual([401, { header: 'Authorization' }]);
    expect(await statusOf('GET', 'players/1', { as: 'Player(99999)' })).toBeGreaterThanOrEqual(400);
  });

  test('a value that does not fit is 422, with a pointer to each; so is a field that no caller sets', async () => {
    const wrong = await ask('POST', 'players', { body: player({ name: 3, steward: true, nothing: 1, email: null }) });
    expect(wrong.status).toBe(422);
    expect(wrong.document.errors?.map(({ source }) => source)).toEqual([
      { pointer: '/data/attributes/name' },
      { pointer: '/data/attributes/steward' },
      { pointer: '/data/attributes/nothing' },
      { pointer: '/data/attributes/email' },
    ]);
    const lacks = await ask('POST', 'loans', {
      body: {
        data: {
          type: 'loans',
          attributes: { due_on: '2031-02-01' },
          relationships: { borrower: { data: { type: 'players', id: '2' } } },
        },
      },
    });
    expect([lacks.status, lacks.document.errors]).toMatchObject([
      422,
      [{ detail: 'instrument is required, among the relationships.', source: { pointer: '/data' } }],
    ]);
    const nameless = await ask('POST', 'players', { body: player({ email: 'nameless@example.org' }) });
    expect(nameless.document.errors).toMatchObject([
      { status: '422', detail: 'name is required, among the attributes.', source: { pointer: '/data' } },
    ]);
    const other = await ask('POST', 'players', { body: { data: { type: 'loans' } } });
    expect([other.status, other.document.errors?.[0]?.source]).toEqual([409, { pointer: '/data/type' }]);
  });

  test('a unique that is taken is 409, with the attribute; a second of one-to-one names the rule', async () => {
    const body = player({ name: 'Omar Again', email: 'omar@example.org' });
    const taken = await ask('POST', 'players', { body });
    expect([taken.status, taken.document.errors?.[0]?.source]).toEqual([409, { pointer: '/data/attributes/email' }]);
    const card = (await ask('GET', 'cards?page[size]=1')).document.data[0];
    const attributes = Object.fromEntries(
      Object.entries(card?.attributes ?? {}).filter(([name]) => name !== 'number' && name !== 'player_id'),
    );
    const second = await ask('POST', 'cards', {
      body: {
        data: {
          type: 'cards',
          attributes: { ...attributes, number: 'C-99999' },
          relationships: { player: card?.relationships.player },
        },
      },
    });
    expect(second.status).toBe(409);
    expect(second.document.errors?.[0]?.detail).toMatch(/card/i);
  });

  test('linkages of many are added to, taken from and replaced, with what their pairs hold', async () => {
    const over = 'players/7/relationships/ensembles';
    const seat = (id: string, chair: number) => ({ type: 'ensembles', id, meta: { chair } });
    expect(await statusOf('PATCH', over, { body: { data: [] } })).toBe(204);
    expect(await statusOf('POST', over, { body: { data: [seat('1', 31), seat('2', 31)] } })).toBe(204);
    expect((await ask('GET', over)).document.data.map(({ id }) => id).sort()).toEqual(['1', '2']);
    expect(await statusOf('PATCH', over, { body: { data: [seat('2', 33), seat('3', 34)] } })).toBe(204);
    expect((await ask('GET', `${over}`)).document.data.map(({ id }) => id).sort()).toEqual(['2', '3']);
    expect(await statusOf('DELETE', over, { body: { data: [{ type: 'ensembles', id: '2' }] } })).toBe(204);
    expect(idsIn(await ask('GET', over))).toEqual(['3']);
    expect(await statusOf('POST', over, { body: { data: [{ type: 'ensembles', id: '4', meta: { seat: 1 } }] } })).toBe(422);
    expect(await statusOf('PATCH', 'loans/5/relationships/borrower', { body: { data: null } })).toBe(422);
    expect(await statusOf('PATCH', 'loans/5/relationships/borrower', { body: { data: { type: 'players', id: '99999' } } })).toBe(
      404,
    );
  });

  test('a resource is made, or changed where another has its unique already', async () => {
    const body = player({ name: 'Bea Once', email: 'bea@example.org' });
    const first = await ask('POST', 'players?by=email', { body });
    expect(first.status).toBe(201);
    const again = await ask('POST', 'players?by=email', { body: player({ name: 'Bea Twice', email: 'bea@example.org' }) });
    expect([again.status, again.document.data.id, again.document.data.attributes.name]).toEqual([
      200,
      first.document.data.id,
      'Bea Twice',
    ]);
    expect((await ask('POST', 'players?by=name', { body })).document.errors?.[0]?.source).toEqual({ parameter: 'by' });
  });

  test('a second child of one-to-one, made through its owner, is refused with the rule', async () => {
    const body = { data: { type: 'cards', attributes: { number: 'C-90001', expires_on: '2032-01-01' } } };
    const told = await ask('POST', 'players/2/card', { body });
    expect([told.status, told.document.errors?.[0]?.detail]).toEqual([
      409,
      expect.stringMatching(/Another row has this already.*[Cc]ard/),
    ]);
  });

  test('several writes are one: all of them, under local ids, or none', async () => {
    const headers = { 'content-type': `${MEDIA}; ext="https://jsonapi.org/ext/atomic"` };
    const operations = (chair: number) => ({
      'atomic:operations': [
        { op: 'add', data: { ...player({ name: 'Cora New', email: 'cora@example.org' }).data, lid: 'cora' } },
        {
          op: 'add',
          data: {
            type: 'loans',
            attributes: { lent_on: '2031-01-01', due_on: '2031-02-01' },
            relationships: {
              borrower: { data: { type: 'players', lid: 'cora' } },
              instrument: { data: { type: 'instruments', id: '2' } },
            },
          },
        },
        {
          op: 'add',
          ref: { type: 'players', lid: 'cora', relationship: 'ensembles' },
          data: [{ type: 'ensembles', id: '5', meta: { chair } }],
        },
        { op: 'remove', ref: { type: 'remarks', id: '7' } },
      ],
    });
    const refused = await ask('POST', 'operations', { body: operations(99), headers });
    expect([refused.status, refused.document.errors?.[0]?.source]).toEqual([422, { pointer: '/atomic:operations/2' }]);
    expect((await ask('GET', 'players?filter[email]=cora@example.org')).document.data).toEqual([]);
    const seats = (await ask('GET', 'ensembles/5/relationships/players?page[size]=100')).document.data;
    const taken = new Set(seats.map((one) => (one as unknown as { meta: { chair: number } }).meta.chair));
    const chair = Array.from({ length: 40 }, (_, at) => at + 1).find((one) => !taken.has(one)) ?? 0;
    const done = await ask('POST', 'operations', { body: operations(chair), headers });
    expect(done.status).toBe(200);
    const results = (JSON.parse(done.text) as { 'atomic:results': readonly { data?: Resource }[] })['atomic:results'];
    expect(results.map(({ data }) => data?.type ?? null)).toEqual(['players', 'loans', null, null]);
    expect(results[1]?.data?.relationships.borrower?.data).toEqual({ type: 'players', id: results[0]?.data?.id });
    expect(await statusOf('GET', 'remarks/7')).toBe(404);
    expect(await statusOf('POST', 'operations', { body: operations(40) })).toBe(415);
    const unknown = { 'atomic:operations': [{ op: 'remove', ref: { type: 'players', lid: 'nobody' } }] };
    expect(await statusOf('POST', 'operations', { body: unknown, headers })).toBe(422);
  });

  test('what was written stands where the rows are made anew, and is taken back like what a person wrote', async () => {
    const made = await ask('POST', 'players', { body: player({ name: 'Ada Kept', email: 'ada.kept@example.org' }) });
    const { text, revision } = v.parse(Tree, (await page('GET', `trees/${server.tree.id}`)).body);
    await page('PUT', `trees/${server.tree.id}/text`, { text: `${text}\n-- one line more\n`, basedOn: revision });
    expect((await ask('GET', `players/${made.document.data.id}`)).document.data.attributes.name).toBe('Ada Kept');
  });
});

describe('what is no request of the standard', () => {
  test.each([
    ['GET', 'players?include=nothing', 400, { parameter: 'include' }],
    ['GET', 'players?sort=nothing', 400, { parameter: 'sort' }],
    ['GET', 'players?sort=loans.due_on', 400, { parameter: 'sort' }],
    ['GET', 'players?fields[players]=nothing', 400, { parameter: 'fields[players]' }],
    ['GET', 'players?fields[nothing]=name', 400, { parameter: 'fields[nothing]' }],
    ['GET', 'players?filter=nothing%20%3D%203', 400, { parameter: 'filter' }],
    ['GET', 'players?filter=1%0Alift%20own_branch', 400, { parameter: 'filter' }],
    ['GET', 'players?filter[branch]=North', 400, { parameter: 'filter[branch]' }],
    ['GET', 'players?page[size]=9999', 400, { parameter: 'page[size]' }],
    ['GET', 'players?page[after]=zz', 400, { parameter: 'page[after]' }],
    ['GET', 'players?sort=display_name&page[after]=&page[size]=2', 400, { parameter: 'sort' }],
    ['GET', 'ensembles/1/players?page[after]=&page[size]=2', 400, { parameter: 'sort' }],
    ['GET', 'players/1/remarks_written?page[after]=00', 400, { parameter: 'page[after]' }],
    ['GET', 'queries/overdue_by_branch?branch=1&nothing=2', 400, { parameter: 'nothing' }],
    ['GET', 'queries/busiest_branches?page[size]=2', 400, { parameter: 'page[size]' }],
    ['GET', 'players?unknown=1', 400, { parameter: 'unknown' }],
    ['GET', 'players/3/loans?page[size]=500&page[number]=900', 400, { parameter: 'page[number]' }],
  ])('%s %s is refused with where it stands', async (method, path, status, source) => {
    const told = await ask(method, path);
    expect([told.status, told.document.errors?.[0]?.source]).toEqual([status, source]);
    expect(told.headers.get('content-type')).toBe(MEDIA);
  });

  test('media types that are not the standard’s are 415 and 406, methods that are not done 405, bodies that are no JSON 400', async () => {
    const headers = { 'content-type': 'application/json' };
    expect(await statusOf('POST', 'players', { body: {}, headers })).toBe(415);
    expect(await statusOf('POST', 'players', { body: {}, headers: { 'content-type': `${MEDIA}; charset=utf-8` } })).toBe(415);
    expect(await statusOf('GET', 'players', { headers: { accept: `${MEDIA}; charset=utf-8` } })).toBe(406);
    expect(await statusOf('GET', 'players', { headers: { accept: 'text/html' } })).toBe(406);
    expect(await statusOf('PUT', 'players/1', { body: {} })).toBe(405);
    expect(await statusOf('POST', 'players', { body: '{' })).toBe(400);
    expect(await statusOf('POST', 'players', { body: 'x'.repeat(1_100_000) })).toBe(413);
    expect(await statusOf('GET', '/live/nothing/players')).toBe(404);
    expect(await statusOf('GET', 'players/%E0%A4%A')).toBe(400);
  });
});
