import { rmSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import express from 'express';
import { readDesign } from '../core/design/index.js';
import { scriptOf, sqliteDialect } from '../core/dialects/index.js';
import { MEDIA_TYPE } from '../core/live/index.js';
import { fileEngine } from '../engines/index.js';
import { serveLive } from '../server/index.js';
import { mediansLater } from './measure.js';

const LIBRARY = `tree 'Live'
  actor Player

entity Branch in branches
  id    integer key
  name  text(40)

entity Player in players
  id    integer key
  name  text(40)

entity Loan in loans
  id    integer key
  fee   integer
  memo  text(40)

relation home
  Player knows one Branch as branch
  Branch knows many Player as players

relation borrowing
  Loan knows one Player as borrower
  Player knows many Loan as loans
`;

const LOANS = 100_000;
const PLAYERS = 2000;
const BRANCHES = 20;
const ROUNDS = 60;

/** A collection of 100 with two includes, against the same bytes from an Express route with SQL written by hand. */
export async function benchLive(): Promise<string[]> {
  const path = join(tmpdir(), `family-tree-live-${process.pid}.db`);
  fill(path);
  const design = readDesign(LIBRARY);
  const engine = fileEngine.open({ path, mode: 'look', milliseconds: 30_000 });
  const toWrite = () => ({ problem: 'Nothing is written here.' });
  const open = { design, engine, sampleKeys: {}, madeHere: true, schemas: null, revision: 1, toWrite };
  const serving = await serveLive({ name: 'x', open, host: '127.0.0.1', port: 0, token: null, origins: [], rate: 1e6 });
  const db = new Database(path, { readonly: true });
  const route = await byHand(db);
  try {
    const ours = `${serving.address}/loans?include=borrower.branch&page[size]=100&page[number]=7`;
    const hand = `${route.origin}/live/x/loans?include=borrower.branch&page[size]=100&page[number]=7`;
    const headers = { actor: 'system', authorization: `Bearer ${serving.token}` };
    const text = async (address: string) => (await fetch(address, { headers })).text();
    const [mine, theirs] = [await text(ours), await text(hand)];
    if (mine !== theirs) throw new Error(`other bytes:\n${mine.slice(0, 900)}\n${theirs.slice(0, 900)}`);
    const times = await mediansLater({ ours: () => text(ours), hand: () => text(hand) }, ROUNDS);
    const { ours: own, hand: other } = times;
    return [
      `a collection of 100 with two includes over HTTP: ${(own / other).toFixed(2)} × the same bytes from a route with SQL by hand (${own.toFixed(1)} ms against ${other.toFixed(1)} ms, ${mine.length.toLocaleString('en')} bytes)`,
    ];
  } finally {
    await route.close();
    await serving.close();
    await engine.close();
    db.close();
    for (const ending of ['', '-wal', '-shm']) rmSync(`${path}${ending}`, { force: true });
  }
}

function fill(path: string): void {
  const db = new Database(path);
  db.exec(scriptOf(sqliteDialect, readDesign(LIBRARY).schema));
  db.transaction(() => {
    const branch = db.prepare('insert into branches (id, name) values (?, ?)');
    for (let b = 1; b <= BRANCHES; b++) branch.run(b, `Branch ${b}`);
    const player = db.prepare('insert into players (id, name, branch_id) values (?, ?, ?)');
    for (let p = 1; p <= PLAYERS; p++) player.run(p, `Player ${p}`, 1 + (p % BRANCHES));
    const loan = db.prepare('insert into loans (id, fee, memo, borrower_id) values (?, ?, ?, ?)');
    for (let l = 1; l <= LOANS; l++) loan.run(l, (l * 7919) % 1000, `A note on loan ${l}`, 1 + ((l * 31) % PLAYERS));
  })();
  db.close();
}

interface LoanRow {
  readonly id: number;
  readonly fee: number;
  readonly memo: string;
  readonly borrower_id: number;
}

interface PlayerRow {
  readonly id: number;
  readonly name: string;
  readonly branch_id: number;
}

interface BranchRow {
  readonly id: number;
  readonly name: string;
}

/** What somebody writes for this one collection: three statements, and the document put together from their rows. */
async function byHand(db: Database.Database): Promise<{ readonly origin: string; close(): Promise<void> }> {
  const loans = db.prepare<[number, number], LoanRow>(
    'select id, fee, memo, borrower_id from loans order by id limit ? offset ?',
  );
  const players = db.prepare<[string], PlayerRow>(
    'select id, name, branch_id from players where id in (select value from json_each(?))',
  );
  const branches = db.prepare<[string], BranchRow>('select id, name from branches where id in (select value from json_each(?))');
  const base = '/live/x';
  const relation = (self: string, name: string, data?: object) => {
    const links = { self: `${self}/relationships/${name}`, related: `${self}/${name}` };
    return data === undefined ? { links } : { links, data };
  };
  const app = express();
  app.get(`${base}/loans`, (request, response) => {
    const page = request.query as Record<string, unknown>;
    const size = Number(page['page[size]'] ?? 50);
    const number = Number(page['page[number]'] ?? 1);
    const all = loans.all(size + 1, (number - 1) * size);
    const rows = all.slice(0, size);
    const own = new Map(
      players.all(JSON.stringify([...new Set(rows.map((row) => row.borrower_id))])).map((row) => [row.id, row]),
    );
    const homes = new Map(
      branches.all(JSON.stringify([...new Set(Array.from(own.values(), (row) => row.branch_id))])).map((row) => [row.id, row]),
    );
    const included = new Map<string, object>();
    const data = rows.map((row) => {
      const borrower = own.get(row.borrower_id);
      const home = borrower === undefined ? undefined : homes.get(borrower.branch_id);
      if (home !== undefined && !included.has(`branches ${home.id}`)) {
        const self = `${base}/branches/${home.id}`;
        included.set(`branches ${home.id}`, {
          type: 'branches',
          id: String(home.id),
          attributes: { name: home.name },
          relationships: { players: relation(self, 'players') },
          links: { self },
        });
      }
      if (borrower !== undefined && !included.has(`players ${borrower.id}`)) {
        const self = `${base}/players/${borrower.id}`;
        included.set(`players ${borrower.id}`, {
          type: 'players',
          id: String(borrower.id),
          attributes: { name: borrower.name },
          relationships: {
            branch: relation(self, 'branch', { type: 'branches', id: String(borrower.branch_id) }),
            loans: relation(self, 'loans'),
          },
          links: { self },
        });
      }
      const self = `${base}/loans/${row.id}`;
      return {
        type: 'loans',
        id: String(row.id),
        attributes: { fee: row.fee, memo: row.memo },
        relationships: { borrower: relation(self, 'borrower', { type: 'players', id: String(row.borrower_id) }) },
        links: { self },
      };
    });
    const at = (one: number) => `${base}/loans?include=borrower.branch&page%5Bnumber%5D=${one}&page%5Bsize%5D=${size}`;
    const links = {
      self: `${base}/loans?include=borrower.branch&page%5Bsize%5D=${size}&page%5Bnumber%5D=${number}`,
      first: at(1),
      prev: at(number - 1),
      ...(all.length > size ? { next: at(number + 1) } : {}),
    };
    response
      .set('content-type', MEDIA_TYPE)
      .end(JSON.stringify({ jsonapi: { version: '1.1' }, data, included: Array.from(included.values()), links }));
  });
  const server = app.listen(0, '127.0.0.1');
  await new Promise((done) => server.once('listening', done));
  const close = async () => {
    server.closeAllConnections();
    await new Promise((done) => server.close(done));
  };
  return { origin: `http://127.0.0.1:${(server.address() as AddressInfo).port}`, close };
}
