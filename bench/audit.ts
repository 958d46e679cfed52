import { rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { hasLeaks, waysTried } from '../core/audit/index.js';
import { readDesign } from '../core/design/index.js';
import { scriptOf, sqliteDialect } from '../core/dialects/index.js';
import { fileEngine } from '../engines/index.js';
import { type AuditState, auditWalls } from '../services/index.js';

const LIBRARY = `tree 'Audited'
  actor Player

entity Branch in branches
  id    integer key
  name  text(40)

entity Player in players
  id       integer key
  name     text(40)
  steward  boolean default false

entity Loan in loans
  id    integer key
  fee   integer
  memo  text(40)
  index (fee)

entity Remark in remarks
  id    integer key
  body  text(40)

relation home
  Player knows one Branch as branch
  Branch knows many Player as players

relation borrowing
  Loan knows one Player as borrower
  Player knows many Loan as loans
  on delete cascade

relation about
  Remark knows one Loan as loan
  Loan knows many Remark as remarks

wall own_branch
  Player where branch = me.branch
  Loan where borrower.branch = me.branch
  Remark where loan.borrower.branch = me.branch
  pin Player.branch to me.branch

query dear
  from Loan
  load borrower (name)
    branch
  order by fee desc, id
  limit 50
`;

/** Loans of each player, and players of each branch: the same few rows match, however many there are. */
const LOANS_EACH = 50;
const PLAYERS_EACH = 10;

const SIZES = [10_000, 1_000_000] as const;

/** The audit of the same walls over few rows and over many: it is to cost as the ways do, and not as the rows. */
export async function benchAudit(): Promise<string[]> {
  const lines: string[] = [];
  const taken: number[] = [];
  for (const loans of SIZES) {
    const path = join(tmpdir(), `family-tree-audit-${process.pid}-${loans}.db`);
    fill(path, loans);
    try {
      const { milliseconds, state } = await audited(path);
      const { tried } = waysTried(state);
      if (hasLeaks(state)) throw new Error('a way round was found');
      taken.push(milliseconds / tried);
      const each = (milliseconds / tried).toFixed(1);
      lines.push(
        `${loans.toLocaleString('en')} loans: ${tried} ways tried in ${(milliseconds / 1000).toFixed(1)} s, ${each} ms each`,
      );
    } finally {
      for (const ending of ['', '-wal', '-shm']) rmSync(`${path}${ending}`, { force: true });
    }
  }
  const [few = 1, many = 1] = taken;
  return [
    ...lines,
    `a way over ${SIZES[1].toLocaleString('en')} loans against one over ${SIZES[0].toLocaleString('en')}: ${(many / few).toFixed(2)}`,
  ];
}

function fill(path: string, loans: number): void {
  const db = new Database(path);
  db.pragma('journal_mode = wal');
  db.exec(scriptOf(sqliteDialect, readDesign(LIBRARY).schema));
  const players = loans / LOANS_EACH;
  db.transaction(() => {
    const branch = db.prepare('insert into branches (id, name) values (?, ?)');
    for (let b = 1; b <= players / PLAYERS_EACH; b++) branch.run(b, `Branch ${b}`);
    const player = db.prepare('insert into players (id, name, branch_id) values (?, ?, ?)');
    for (let p = 1; p <= players; p++) player.run(p, `Player ${p}`, 1 + (p % (players / PLAYERS_EACH)));
    const loan = db.prepare('insert into loans (id, fee, memo, borrower_id) values (?, ?, ?, ?)');
    for (let l = 1; l <= loans; l++) loan.run(l, (l * 7919) % 1000, `A note on loan ${l}`, 1 + (l % players));
    const remark = db.prepare('insert into remarks (id, body, loan_id) values (?, ?, ?)');
    for (let r = 1; r <= loans / 10; r++) remark.run(r, `Remark ${r}`, r * 10);
  })();
  db.exec('analyze');
  db.close();
}

async function audited(path: string): Promise<{ readonly milliseconds: number; readonly state: AuditState }> {
  const design = readDesign(LIBRARY, 'sqlite');
  const engine = fileEngine.open({ path, mode: 'look', milliseconds: 120_000 });
  const writer = fileEngine.open({ path, mode: 'write', milliseconds: 120_000 });
  try {
    await engine.answers();
    await writer.answers();
    const started = performance.now();
    const lookedAt = { design, engine, sampleKeys: {}, madeHere: false };
    const state = await auditWalls(lookedAt, { engine: writer, schemas: null }, { now: '2031-04-12T09:00:00.000000Z' });
    return { milliseconds: performance.now() - started, state };
  } finally {
    await engine.close();
    await writer.close();
  }
}
