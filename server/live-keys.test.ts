import { afterAll, beforeAll, expect, test } from 'vitest';
import { MEDIA_TYPE } from '../core/live/index.js';
import { type LiveServer, serveLive } from '../tests/live-server.js';

const TEXT = `tree 'Keys of several parts'

entity House in houses
  code  text(20) key

entity Booking in bookings
  house   text(20)
  number  integer
  seats   integer optional
  key (house, number)

entity Line in lines
  id    integer key
  what  text(40)

relation lines_of
  Line knows one Booking as booking
  Booking knows many Line as lines

sample House
  odd: code 'a/b ?#&%"ä'
  plain: code 'b'

sample Booking
  one: house 'a/b ?', number 2, seats 4
  two: house 'a/b ?', number 10
  three: house 'z', number 1, seats 4
  four: house 'z', number 3

sample Line
  first: what 'a chair', booking Booking(one)
  second: what 'a stand', booking Booking(two)
  third: what 'a lamp', booking Booking(two)
`;

const OUT_OF_REACH = `tree 'Keys that point out of reach'
  actor Player

entity Player in players
  id    integer key
  name  text(20)

entity Loan in loans
  id         integer key
  player_id  integer optional

relation borrowing
  Loan knows at most one Player as borrower
  Player knows many Loan as loans
  stored in Loan.player_id

wall own
  Player where id = me.id

sample Player
  ada: name 'Ada'
  ben: name 'Ben'
  cy: name 'Cy'

sample Loan
  a: borrower Player(cy)
  b: borrower Player(ada)
  c: borrower Player(ben)
  d: id 4
  e: borrower Player(cy)
`;

let server: LiveServer;
beforeAll(async () => {
  server = await serveLive(TEXT);
}, 120_000);
afterAll(() => server.close());

interface Told {
  readonly status: number;
  readonly ids: readonly string[];
  readonly next: string | undefined;
  readonly self: string | undefined;
}

interface Read {
  readonly data?: { readonly id: string; readonly links?: { readonly self: string } } | readonly { readonly id: string }[];
  readonly links?: { readonly next?: string; readonly self?: string };
}

async function ask(path: string, method = 'GET', body?: object): Promise<Told> {
  const answer = await fetch(path.startsWith('/live') ? new URL(path, server.address) : `${server.address}/${path}`, {
    method,
    headers: { actor: 'system', authorization: `Bearer ${server.token}`, 'content-type': MEDIA_TYPE },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  });
  const text = await answer.text();
  const { data, links } = (text === '' ? {} : JSON.parse(text)) as Read;
  const list = data === undefined ? [] : Array.isArray(data) ? data : [data];
  return { status: answer.status, ids: list.map(({ id }) => id), next: links?.next, self: links?.self };
}

const BOOKINGS = ['["a/b ?",2]', '["a/b ?",10]', '["z",1]', '["z",3]'];

test.each([
  ['id', [0, 1, 2, 3]],
  ['-id', [3, 2, 1, 0]],
  ['seats', [1, 3, 0, 2]],
  ['-seats,-id', [2, 0, 3, 1]],
] as const)('a key of two parts sorted by %s, as one page and behind cursors', async (sort, order) => {
  const wanted = order.map((at) => BOOKINGS[at]);
  expect((await ask(`bookings?sort=${sort}`)).ids.map(normal)).toEqual(wanted.map(normal));
  const walked: string[] = [];
  let next: string | undefined = `bookings?sort=${sort}&page[size]=1&page[after]=`;
  while (next !== undefined) {
    const told: Told = await ask(next);
    walked.push(...told.ids);
    next = told.next;
  }
  expect(walked.map(normal)).toEqual(wanted.map(normal));
});

test('lines sorted over such a key, behind cursors and behind a relationship', async () => {
  expect((await ask('lines?sort=-booking.seats,what')).ids).toEqual(['1', '3', '2']);
  const first = await ask('lines?sort=booking.seats,-what&page[size]=2&page[after]=');
  expect(first.ids).toEqual(['2', '3']);
  expect((await ask(first.next ?? '')).ids).toEqual(['1']);
  const [, second = ''] = (await ask('bookings?sort=id')).ids;
  expect((await ask(`bookings/${encodeURIComponent(second)}/lines?sort=what`)).ids).toEqual(['3', '2']);
});

test('a resource is found again by the address that it tells, whatever signs its key has', async () => {
  for (const path of ['houses', 'bookings'])
    for (const id of (await ask(path)).ids) {
      const told = await ask(`${path}/${encodeURIComponent(id)}`);
      expect([told.status, told.ids]).toEqual([200, [id]]);
      expect((await ask(told.self ?? '')).ids).toEqual([id]);
    }
});

test('rows sorted by a key that points out of reach stand behind cursors as on one page', async () => {
  const walled = await serveLive(OUT_OF_REACH);
  const read = async (path: string, actor: string) => {
    const answer = await fetch(path.startsWith('/live') ? new URL(path, walled.address) : `${walled.address}/${path}`, {
      headers: { actor, authorization: `Bearer ${walled.token}`, accept: MEDIA_TYPE },
    });
    const { data, links } = (await answer.json()) as Read;
    return { ids: Array.isArray(data) ? data.map(({ id }) => id) : [], next: links?.next };
  };
  for (const actor of ['system', 'Player(1)', 'Player(2)'])
    for (const sort of ['player_id', '-player_id', 'borrower.name', '-borrower.name']) {
      const whole = await read(`loans?sort=${sort}`, actor);
      expect(whole.ids).toHaveLength(5);
      const walked: string[] = [];
      let next: string | undefined = `loans?sort=${sort}&page[size]=2&page[after]=`;
      while (next !== undefined) {
        const told: Awaited<ReturnType<typeof read>> = await read(next, actor);
        walked.push(...told.ids);
        next = told.next;
      }
      expect(walked, `${sort} as ${actor}`).toEqual(whole.ids);
    }
  // A borrower out of reach is ordered as none; Ben, who sees himself alone, has one loan, which comes last.
  expect((await read('loans?sort=borrower.name', 'Player(2)')).ids.at(-1)).toBe('3');
  await walled.close();
});

/** A key of several parts, whichever way its numbers are written. */
function normal(id: string | undefined): string {
  return JSON.stringify((JSON.parse(id ?? '[]') as readonly unknown[]).map(String));
}
