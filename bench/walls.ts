import Database from 'better-sqlite3';
import { browse } from '../core/browse/index.js';
import { type Design, readDesign } from '../core/design/index.js';
import { scriptOf, sqliteDialect } from '../core/dialects/index.js';
import { loadRows, type Prepared, prepare, type Statement, type StatementResult } from '../core/load/index.js';
import { planQuery, type QueryPlan } from '../core/plan/index.js';
import { computationOf } from '../core/runs/index.js';
import type { Wire } from '../core/values/index.js';
import { askedOfActor, type Walled, weave } from '../core/walls/index.js';
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
  const queries = Object.entries(BY_HAND).map(([name, { query: text, sql }]) => {
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
  return [...queries, gridLine(db, design, actor, execute)];
}

const WINDOW = 100;

/** What a grid asks of walled rows: which there are, in order, and a window from their middle by its keys; against the same by hand. */
function gridLine(
  db: Database.Database,
  { model, dialect }: Design,
  actor: Walled,
  execute: (statement: Statement) => StatementResult,
): string {
  const plans = browse(model, { entity: 'Loan', where: [], orderBy: [], via: null });
  const inputs = { parameters: {}, now: '2031-04-12T09:00:00.000000Z', sampleKeys: {}, me: actor.me };
  const prepared = (plan: QueryPlan): Prepared => {
    const ready = prepare(weave(plan, actor), { model, dialect, madeHere: true }, inputs);
    if (!ready.ok) throw new Error(ready.problems.join(' '));
    return ready.prepared;
  };
  const middle = <Key>(keys: readonly Key[]) => keys.slice(keys.length / 2, keys.length / 2 + WINDOW);
  const ours = () => {
    const { keys } = drive(computationOf(dialect, 'order', { prepared: prepared(plans.keys), most: LOANS }), execute);
    const key = { keyType: { kind: 'integer' } as const, keyName: 'id' };
    const window = { prepared: prepared(plans.rows), keys: middle(keys), ...key, rowLimit: WINDOW, pairs: null };
    return JSON.parse(drive(computationOf(dialect, 'page', window), execute).text) as unknown[];
  };
  const order = db
    .prepare(
      'select json_group_array(id) from (select loans.id from loans join players on players.id = loans.borrower_id where players.branch_id = ? order by loans.id limit 1000001)',
    )
    .pluck();
  const rows = db.prepare(
    'select loans.id, loans.fee, loans.memo, loans.borrower_id, seen.id is null as hidden from loans join players on players.id = loans.borrower_id left join players seen on seen.id = loans.borrower_id and seen.branch_id = players.branch_id where loans.id in (select value from json_each(?)) and players.branch_id = ?',
  );
  const titles = db.prepare('select id, name from players where id in (select value from json_each(?)) and branch_id = ?').raw();
  const hand = () => {
    const keys = middle(JSON.parse(order.get(3) as string) as number[]);
    const found = rows.all(JSON.stringify(keys), 3) as { id: number; borrower_id: number }[];
    const names = new Map(titles.all(JSON.stringify(found.map((row) => row.borrower_id)), 3) as [number, string][]);
    const byKey = new Map(found.map((row) => [row.id, row]));
    return keys.map((key) => ({ ...byKey.get(key), borrower: names.get(byKey.get(key)?.borrower_id ?? 0) }));
  };
  const [mine, theirs] = [ours(), hand()];
  const firstOf = (found: readonly unknown[]) => (found[0] as { readonly id: number }).id;
  if (mine.length !== WINDOW || theirs.length !== WINDOW || firstOf(mine) !== firstOf(theirs))
    throw new Error('the grid by hand has other rows');
  const times = medians({ ours, hand }, 15);
  return `a grid of 50,000 walled loans of 1,000,000, its order and a window of ${WINDOW}: ${(times.ours / times.hand).toFixed(2)} × the same by hand with the wall’s condition (${times.ours.toFixed(1)} ms against ${times.hand.toFixed(1)} ms)`;
}
