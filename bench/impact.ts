import { rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { readDesign } from '../core/design/index.js';
import { scriptOf, sqliteDialect } from '../core/dialects/index.js';
import { openSqlite } from '../engines/index.js';
import { foretellDelete } from '../services/index.js';

/** Three generations: a branch with a thousand players, a thousand loans of each, and a row that is emptied for every tenth. */
const TREE = `tree 'Descendants'

entity Branch in branches
  id  integer key

entity Player in players
  id  integer key

entity Loan in loans
  id      integer key
  due_on  date

entity Remark in remarks
  id  integer key

relation belonging
  Player knows one Branch as branch
  Branch knows many Player as players
  on delete cascade

relation borrowing
  Loan knows one Player as borrower
  Player knows many Loan as loans
  on delete cascade

relation about
  Remark knows at most one Loan as loan
  Loan knows many Remark as remarks
  on delete set null
`;

const PLAYERS = 1000;
const LOANS = 1000;
const RUNS = 3;

/** What a delete of a million descendants reaches, told beforehand, against the delete itself. */
export async function benchImpact(): Promise<string[]> {
  const path = join(tmpdir(), `impact-${process.pid}.db`);
  const design = readDesign(TREE);
  const db = new Database(path);
  db.exec(scriptOf(sqliteDialect, design.schema));
  const rows = 'with recursive n(i) as (select 1 union all select i + 1 from n where i <';
  db.exec(`insert into branches values (1);
    ${rows} ${PLAYERS}) insert into players (id, branch_id) select i, 1 from n;
    ${rows} ${PLAYERS * LOANS}) insert into loans (id, due_on, borrower_id) select i, '2031-04-12', (i - 1) % ${PLAYERS} + 1 from n;
    ${rows} ${(PLAYERS * LOANS) / 10}) insert into remarks (id, loan_id) select i, i * 10 from n;`);
  const engine = openSqlite({ path, mode: 'look', milliseconds: 60_000 });
  const told: number[] = [];
  const deleted: number[] = [];
  let reached = 0;
  try {
    for (let run = 0; run <= RUNS; run++) {
      const started = performance.now();
      const outcome = await foretellDelete(design, engine, {
        rows: 'Branch(1)',
        sampleKeys: {},
        now: '2031-04-12T09:00:00.000000Z',
        schemas: null,
        looks: 5,
      });
      const between = performance.now();
      if (!outcome.ok) throw new Error(outcome.problems.join(' '));
      reached = outcome.impact.groups.reduce((sum, group) => sum + group.rows, 0);
      db.pragma('foreign_keys = on');
      db.exec('begin; delete from branches where id = 1;');
      const ended = performance.now();
      db.exec('rollback');
      // The first starts a process.
      if (run === 0) continue;
      told.push(between - started);
      deleted.push(ended - between);
    }
  } finally {
    await engine.close();
    db.close();
    rmSync(path, { force: true });
  }
  const middle = (numbers: number[]) => numbers.toSorted((a, b) => a - b)[Math.floor(numbers.length / 2)] ?? 0;
  const ratio = middle(told) / middle(deleted);
  return [
    `what a delete of ${reached.toLocaleString('en')} rows reaches, with five of each (${middle(told).toFixed(0)} ms against ${middle(deleted).toFixed(0)} ms): ${ratio.toFixed(2)} × the delete`,
  ];
}
