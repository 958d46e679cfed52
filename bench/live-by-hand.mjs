/**
 * What somebody writes by hand for one collection of the live endpoint: three statements, and the document put together from their rows.
 * `node bench/live-by-hand.mjs DATABASE` prints its address.
 */
import Database from 'better-sqlite3';
import express from 'express';

const MEDIA_TYPE = 'application/vnd.api+json';
const db = new Database(process.argv[2], { readonly: true });
const loans = db.prepare('select id, fee, memo, borrower_id from loans order by id limit ? offset ?');
const players = db.prepare('select id, name, branch_id from players where id in (select value from json_each(?))');
const branches = db.prepare('select id, name from branches where id in (select value from json_each(?))');
const base = '/live/live';

function relation(self, name, data) {
  const links = { self: `${self}/relationships/${name}`, related: `${self}/${name}` };
  return data === undefined ? { links } : { links, data };
}

function byId(statement, ids) {
  return new Map(statement.all(JSON.stringify([...new Set(ids)])).map((row) => [row.id, row]));
}

const app = express();
app.get(`${base}/loans`, (request, response) => {
  const size = Number(request.query['page[size]'] ?? 50);
  const number = Number(request.query['page[number]'] ?? 1);
  const all = loans.all(size + 1, (number - 1) * size);
  const rows = all.slice(0, size);
  const own = byId(
    players,
    rows.map((row) => row.borrower_id),
  );
  const homes = byId(
    branches,
    Array.from(own.values(), (row) => row.branch_id),
  );
  const included = new Map();
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
  const at = (one) => `${base}/loans?include=borrower.branch&page%5Bnumber%5D=${one}&page%5Bsize%5D=${size}`;
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
const server = app.listen(0, '127.0.0.1', () => {
  process.stdout.write(`http://127.0.0.1:${server.address().port}${base} answers\n`);
});
