import { rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { type Design, readDesign } from '../core/design/index.js';
import { scriptOf, sqliteDialect } from '../core/dialects/index.js';
import { guessUses } from '../core/row-files/index.js';
import { type Engine, headOf, openSqlite } from '../engines/index.js';
import { doCommands, type LinesOutcome, putLinesIn } from '../services/index.js';

const TREE = `tree 'Many creates'

entity Player in players
  id    integer key
  name  text(80)

entity Instrument in instruments
  id    integer key
  name  text(60)

entity Loan in loans
  id       integer key
  lent_on  date default today
  due_on   date
  words    text(80) optional

relation borrowing
  Loan knows one Player as borrower
  Player knows many Loan as loans

relation lending
  Loan knows one Instrument as instrument
  Instrument knows many Loan as loans
`;

const ROWS = 10_000;
const OTHERS = 500;
const RUNS = 5;

/**
 * Ten thousand rows, each with two roles, made by commands, against the same by hand: prepared statements that look both rows up,
 * put the row in, and read it back as it is.
 */
export async function benchCreates(): Promise<string[]> {
  const path = join(tmpdir(), `creates-${process.pid}.db`);
  const design = readDesign(TREE);
  const db = new Database(path);
  db.exec(scriptOf(sqliteDialect, design.schema));
  db.exec(`with recursive n(i) as (select 1 union all select i + 1 from n where i < ${OTHERS})
    insert into players (id, name) select i, 'Player ' || i from n;`);
  db.exec(`with recursive n(i) as (select 1 union all select i + 1 from n where i < ${OTHERS})
    insert into instruments (id, name) select i, 'Instrument ' || i from n;`);
  const lines = Array.from(
    { length: ROWS },
    (_, at) =>
      `create Loan with due_on '2031-05-0${(at % 9) + 1}', words 'no ${at}', borrower Player(${(at % OTHERS) + 1}), instrument Instrument(${((at * 7) % OTHERS) + 1})`,
  );
  const text = lines.join('\n');
  const file = join(tmpdir(), `creates-${process.pid}.csv`);
  const csv = Array.from(
    { length: ROWS },
    (_, at) => `2031-05-0${(at % 9) + 1},no ${at},${(at % OTHERS) + 1},${((at * 7) % OTHERS) + 1}`,
  );
  writeFileSync(file, `due_on,words,borrower,instrument\r\n${csv.join('\r\n')}\r\n`);
  const engine = openSqlite({ path, mode: 'write', milliseconds: 60_000 });
  const times = { hand: [] as number[], ours: [] as number[], lines: [] as number[] };
  try {
    for (let run = 0; run <= RUNS; run++) {
      const started = performance.now();
      byHand(db);
      const between = performance.now();
      const outcome = await doCommands(design, engine, {
        text,
        sampleKeys: {},
        madeHere: true,
        now: '2031-04-12T09:00:00.000000Z',
        rehearse: true,
      });
      const ended = performance.now();
      if (!outcome.ok) throw new Error(outcome.problems.join(' '));
      const lines = await linesIn(design, engine, file);
      if (!lines.ok || lines.report.created !== ROWS) throw new Error('the lines did not go in');
      const inFile = performance.now();
      // The first starts a process.
      if (run === 0) continue;
      times.hand.push(between - started);
      times.ours.push(ended - between);
      times.lines.push(inFile - ended);
    }
  } finally {
    await engine.close();
    db.close();
    for (const one of [path, file]) rmSync(one, { force: true });
  }
  const middle = (numbers: number[]) => numbers.toSorted((a, b) => a - b)[Math.floor(numbers.length / 2)] ?? 0;
  const [hand, ours, inFile] = [middle(times.hand), middle(times.ours), middle(times.lines)];
  return [
    `${ROWS.toLocaleString('en')} creates with two roles each (${ours.toFixed(0)} ms against ${hand.toFixed(0)} ms): ${(ours / hand).toFixed(2)} × by hand`,
    `the same as the lines of a file (${inFile.toFixed(0)} ms against ${hand.toFixed(0)} ms): ${(inFile / hand).toFixed(2)} × by hand`,
  ];
}

async function linesIn(design: Design, engine: Engine, path: string): Promise<LinesOutcome> {
  const head = await headOf(path, 'csv', 20);
  const uses = guessUses(
    design.model,
    'Loan',
    head.columns,
    head.lines.map(({ values }) => values),
  );
  const columns = head.columns.map((name, at) => ({ name, use: uses[at] ?? ({ kind: 'left out' } as const) }));
  return putLinesIn(design, engine, {
    mapping: { entity: 'Loan', columns, nothing: '', there: 'refuse', match: [] },
    file: { ...head, path },
    sampleKeys: {},
    madeHere: true,
    now: '2031-04-12T09:00:00.000000Z',
    rehearse: true,
    goodOnes: false,
  });
}

function byHand(db: Database.Database): void {
  db.pragma('foreign_keys = on');
  const player = db.prepare('select id from players where id = ?');
  const instrument = db.prepare('select id from instruments where id = ?');
  const insert = db.prepare('insert into loans (lent_on, due_on, words, borrower_id, instrument_id) values (?, ?, ?, ?, ?)');
  const back = db.prepare('select * from loans where id = ?');
  const made: unknown[] = [];
  db.exec('begin immediate');
  for (let at = 0; at < ROWS; at++) {
    const [one, other] = [player.get((at % OTHERS) + 1), instrument.get(((at * 7) % OTHERS) + 1)] as { readonly id: number }[];
    const { lastInsertRowid } = insert.run('2031-04-12', `2031-05-0${(at % 9) + 1}`, `no ${at}`, one?.id, other?.id);
    made.push(back.get(lastInsertRowid));
  }
  db.exec('rollback');
}
