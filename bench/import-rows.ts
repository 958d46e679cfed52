import { createReadStream, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import Papa from 'papaparse';
import { readDesign } from '../core/design/index.js';
import { scriptOf, sqliteDialect } from '../core/dialects/index.js';
import { guessUses } from '../core/row-files/index.js';
import { headOf, openSqlite } from '../engines/index.js';
import { putLinesIn } from '../services/index.js';

const TREE = `tree 'Loans from a file'

entity Player in players
  id    integer key
  name  text(80) unique

entity Loan in loans
  id           integer key
  number       text(12) unique
  lent_on      date
  returned_on  date optional
  worth        decimal(8, 2)
  words        text(200) optional

relation borrowing
  Loan knows one Player as borrower
  Player knows many Loan as loans
`;

const LINES = 1_000_000;
const PLAYERS = 1000;
const RUNS = 3;
const COLUMNS = ['id', 'number', 'lent_on', 'returned_on', 'worth', 'words', 'borrower.name'];

/** The values of a loan, as a file has them. */
function loan(at: number): string[] {
  const day = String((at % 28) + 1).padStart(2, '0');
  const returned = at % 3 === 0 ? '' : `2031-05-${day}`;
  const words = at % 2 === 0 ? 'in its case' : '';
  return [String(at + 1), `N-${at}`, `2031-04-${day}`, returned, `${at % 900}.50`, words, `Player ${at % PLAYERS}`];
}

const INSERT = 'insert into loans (id, number, lent_on, returned_on, worth, words, borrower_id) values (?, ?, ?, ?, ?, ?, ?)';

/** A million lines of CSV put in, against the same rows put in by a prepared statement: from memory, and read from the file by hand. */
export async function benchImportRows(): Promise<string[]> {
  const file = join(tmpdir(), `loans-${process.pid}.csv`);
  const path = join(tmpdir(), `loans-${process.pid}.db`);
  const parts = [COLUMNS.join()];
  for (let at = 0; at < LINES; at++) parts.push(loan(at).join());
  writeFileSync(file, `${parts.join('\r\n')}\r\n`);
  const design = readDesign(TREE);
  const empty = () => {
    for (const end of ['', '-journal']) rmSync(`${path}${end}`, { force: true });
    const db = new Database(path);
    db.exec(scriptOf(sqliteDialect, design.schema));
    const player = db.prepare('insert into players (id, name) values (?, ?)');
    for (let at = 0; at < PLAYERS; at++) player.run(at + 1, `Player ${at}`);
    return db;
  };
  const times = { bare: [] as number[], byHand: [] as number[], ours: [] as number[] };
  let memory = 0;
  try {
    for (let run = 0; run < RUNS; run++) {
      times.bare.push(await timed(empty(), bare));
      times.byHand.push(await timed(empty(), (db) => byHand(db, file)));
      empty().close();
      const engine = openSqlite({ path, mode: 'write', milliseconds: 60_000 });
      await engine.answers();
      const started = performance.now();
      const head = await headOf(file, 'csv', 100);
      const uses = guessUses(
        design.model,
        'Loan',
        head.columns,
        head.lines.map(({ values }) => values),
      );
      const columns = head.columns.map((name, at) => ({ name, use: uses[at] ?? ({ kind: 'left out' } as const) }));
      const outcome = await putLinesIn(design, engine, {
        mapping: { entity: 'Loan', columns, nothing: '', there: 'refuse', match: [] },
        file: { ...head, path: file },
        sampleKeys: {},
        madeHere: false,
        now: '2031-04-12T09:00:00.000000Z',
        rehearse: false,
        goodOnes: false,
        progress: () => {
          memory = Math.max(memory, process.memoryUsage().rss);
        },
      });
      times.ours.push(performance.now() - started);
      await engine.close();
      if (!outcome.ok) throw new Error(outcome.problems.join(' '));
      if (outcome.report.created !== LINES) throw new Error(`${outcome.report.created} of ${LINES} lines went in`);
    }
  } finally {
    for (const one of [file, path]) rmSync(one, { force: true });
  }
  const [bareLoop, hand, ours] = [median(times.bare), median(times.byHand), median(times.ours)];
  return [
    `${LINES.toLocaleString('en')} lines of CSV put in (${ours.toFixed(0)} ms against ${bareLoop.toFixed(0)} ms): ${(ours / bareLoop).toFixed(2)} × a prepared insert loop over rows in memory`,
    `the same (${ours.toFixed(0)} ms against ${hand.toFixed(0)} ms): ${(ours / hand).toFixed(2)} × the loop over the file, with the same reader of CSV`,
  ];
}

async function timed(db: Database.Database, work: (db: Database.Database) => void | Promise<void>): Promise<number> {
  db.pragma('foreign_keys = on');
  const started = performance.now();
  db.exec('begin immediate');
  await work(db);
  db.exec('commit');
  const ended = performance.now();
  db.close();
  return ended - started;
}

/** Values as the statement takes them. */
function bound([id, number, lent, returned, worth, words, borrower]: readonly string[], players: ReadonlyMap<string, number>) {
  return [
    Number(id),
    number,
    lent,
    returned === '' ? null : returned,
    worth,
    words === '' ? null : words,
    players.get(borrower ?? '') ?? null,
  ];
}

function playersOf(db: Database.Database): ReadonlyMap<string, number> {
  const rows = db.prepare('select id, name from players').all() as { readonly id: number; readonly name: string }[];
  return new Map(rows.map(({ id, name }) => [name, id]));
}

function bare(db: Database.Database): void {
  const insert = db.prepare(INSERT);
  const players = playersOf(db);
  for (let at = 0; at < LINES; at++) insert.run(...bound(loan(at), players));
}

function byHand(db: Database.Database, file: string): Promise<void> {
  const insert = db.prepare(INSERT);
  const players = playersOf(db);
  let first = true;
  return new Promise((resolve, reject) => {
    Papa.parse<string[]>(createReadStream(file), {
      chunk: ({ data }) => {
        for (const row of data) {
          if (first) first = false;
          else if (row.length > 1) insert.run(...bound(row, players));
        }
      },
      complete: () => resolve(),
      error: reject,
    });
  });
}

function median(numbers: readonly number[]): number {
  return numbers.toSorted((a, b) => a - b)[Math.floor(numbers.length / 2)] ?? 0;
}
