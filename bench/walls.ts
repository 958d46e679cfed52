import Database from 'better-sqlite3';
import { readDesign } from '../core/design/index.js';
import { scriptOf, sqliteDialect } from '../core/dialects/index.js';
import { loadRows, prepare, type Statement, type StatementResult } from '../core/load/index.js';
import { planQuery } from '../core/plan/index.js';
import type { Wire } from '../core/values/index.js';
import { askedOfActor, weave } from '../core/walls/index.js';
import { drive } from '../engines/index.js';
import { statementOf } from '../engines/sqlite/statements.js';
import { medians } from './measure.js';

const LIBRARY = `tree 'Walled'
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

wall own_branch
  Player where branch = me.branch
  Loan where borrower.branch = me.branch
`;

const PLAYERS = 2000;
const BRANCHES = 20;
const LOANS = 1_000_000;

const COLUMNS = ['id', 'fee', 'memo', 'borrower_id', 'hidden'] as const;

/** What a careful person writes for the same rows, with the wall's condition. */
const BY_HAND: Readonly<Record<string, { readonly query: string; readonly sql: string }>> = {
  'the dearest 500 of 50,000 walled loans of 1,000,000, of their own fields': {
    query: 'from Loan\nshow id, fee, memo\norder by fee desc, id\nlimit 500',
    sql: `select json_group_array(id), json_group_array(fee), json_group_array(memo) from (select loans.id, loans.fee, loans.memo from loans join players on players.id = loans.borrower_id where players.branch_id = ? order by loans.fee desc, loans.id limit 500)`,
  },
  'the same whole, with whether the borrower is hidden': {
    query: 'from Loan\norder by fee desc, id\nlimit 500',
    sql: `select json_group_array(id), json_group_array(fee), json_group_array(memo), json_group_array(borrower_id), json_group_array(hidden) from (select loans.id, loans.fee, loans.memo, loans.borrower_id, seen.id is null as hidden from loans join players on players.id = loans.borrower_id left join players seen on seen.id = loans.borrower_id and seen.branch_id = players.branch_id where players.branch_id = ? order by loans.fee desc, loans.id limit 500)`,
  },
  'a count of the same': {
    query: 'from Loan\ncount',
    sql: 'select count(*) from loans join players on players.id = loans.borrower_id where players.branch_id = ?',
  },
};

/** Queries past a wall against the same written by hand, with the wall's condition, from statement to JSON text. */
export function benchWalls(): string[] {
  const design = readDesign(LIBRARY);
  const db = new Database(':memory:');
  db.exec(scriptOf(sqliteDialect, design.schema));
  db.transaction(() => {
    for (let b = 1; b <= BRANCHES; b++) db.prepare('insert into branches values (?, ?)').run(b, `Branch ${b}`);
    const player = db.prepare('insert into players (id, name, branch_id) values (?, ?, ?)');
    for (let p = 1; p <= PLAYERS; p++) player.run(p, `Player ${p}`, 1 + (p % BRANCHES));
    const loan = db.prepare('insert into loans (id, fee, memo, borrower_id) values (?, ?, ?, ?)');
    for (let l = 1; l <= LOANS; l++) loan.run(l, (l * 7919) % 1000, `A note on loan ${l}`, 1 + (l % PLAYERS));
  })();
  const execute = ({ sent, parameters }: Statement): StatementResult => {
    const started = performance.now();
    const rows = statementOf(db, sent).raw().all(parameters) as unknown[][];
    return { rows, milliseconds: performance.now() - started, steps: [], refused: null };
  };
  const asked = askedOfActor(design.model, []);
  const actor = asked.actor(asked.columns.map((): Wire => 3));
  return Object.entries(BY_HAND).map(([name, { query: text, sql }]) => {
    const { query } = design.queryOf(text);
    if (query === null) throw new Error('the query does not stand');
    const database = { model: design.model, dialect: design.dialect, madeHere: true };
    const inputs = { parameters: {}, now: '2031-04-12T09:00:00.000000Z', sampleKeys: {}, me: actor.me };
    const ours = () => {
      const ready = prepare(weave(planQuery(design.model, query), actor), database, inputs);
      if (!ready.ok) throw new Error(ready.problems.join(' '));
      return JSON.stringify(drive(loadRows(sqliteDialect, { prepared: ready.prepared, rowLimit: 1_000_000 }), execute).rows);
    };
    const statement = db.prepare(sql).raw();
    const hand = () => {
      const [first = [], ...more] = (statement.get(3) as unknown[]).map((one) =>
        typeof one === 'string' ? (JSON.parse(one) as unknown[]) : [one],
      );
      return JSON.stringify(
        first.map((id, at) =>
          Object.fromEntries(
            COLUMNS.slice(0, more.length + 1).map((name, place) => [name, place === 0 ? id : more[place - 1]?.[at]]),
          ),
        ),
      );
    };
    const [mine, theirs] = [JSON.parse(ours()) as unknown[], JSON.parse(hand()) as unknown[]];
    if (mine.length !== theirs.length) throw new Error(`${mine.length} rows, and ${theirs.length} by hand`);
    const times = medians({ ours, hand }, 15);
    return `${name}: ${(times.ours / times.hand).toFixed(2)} × the same by hand with the wall’s condition (${times.ours.toFixed(1)} ms against ${times.hand.toFixed(1)} ms)`;
  });
}
