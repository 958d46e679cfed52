import Database from 'better-sqlite3';
import { readDesign } from '../core/design/index.js';
import { scriptOf, sqliteDialect } from '../core/dialects/index.js';
import { loadRows, type Statement, type StatementResult } from '../core/load/index.js';
import { planQuery } from '../core/plan/index.js';
import { drive } from '../engines/index.js';
import { statementOf } from '../engines/sqlite/statements.js';
import { preparedPlan } from '../tests/prepared.js';
import { LOADS, LOADS_QUERY } from './loads-tree.js';
import { medians } from './measure.js';

interface HandRow {
  [key: string]: unknown;
}

/** The same load as a careful person writes it by hand: by columns, keys as one parameter, stitched by run. */
function byHand(db: Database.Database): () => string {
  const players = db
    .prepare(
      'select json_group_array(id), json_group_array(name), json_group_array(town) from (select id, name, town from players order by id)',
    )
    .raw();
  const loans = db
    .prepare(
      'select json_group_array(id), json_group_array(due_on), json_group_array(memo), json_group_array(borrower_id) from (select id, due_on, memo, borrower_id from loans where borrower_id in (select value from json_each(?)) order by borrower_id, id)',
    )
    .raw();
  const remarks = db
    .prepare(
      'select json_group_array(id), json_group_array(body), json_group_array(loan_id) from (select id, body, loan_id from remarks where loan_id in (select value from json_each(?)) order by loan_id, id)',
    )
    .raw();
  const columns = (row: unknown) => (row as string[]).map((text) => JSON.parse(text) as unknown[]);
  const stitch = (owners: HandRow[], role: string, children: HandRow[], keys: unknown[]) => {
    const runs = new Map<unknown, HandRow[]>();
    let from = 0;
    for (let at = 1; at <= children.length; at++) {
      if (at < children.length && keys[at] === keys[from]) continue;
      runs.set(keys[from], children.slice(from, at));
      from = at;
    }
    for (const owner of owners) owner[role] = runs.get(owner.id) ?? [];
  };
  return () => {
    const [ids = [], names = [], towns = []] = columns(players.get());
    const playerRows: HandRow[] = ids.map((id, index) => ({ id, name: names[index], town: towns[index] }));
    const [loanIds = [], due = [], memos = [], borrowers = []] = columns(loans.get(JSON.stringify(ids)));
    const loanRows: HandRow[] = loanIds.map((id, index) => ({
      id,
      due_on: due[index],
      memo: memos[index],
      borrower_id: borrowers[index],
    }));
    const [remarkIds = [], bodies = [], owners = []] = columns(remarks.get(JSON.stringify(loanIds)));
    const remarkRows: HandRow[] = remarkIds.map((id, index) => ({ id, body: bodies[index], loan_id: owners[index] }));
    stitch(playerRows, 'loans', loanRows, borrowers);
    stitch(loanRows, 'remarks', remarkRows, owners);
    return JSON.stringify(playerRows);
  };
}

/** A batched load of 2,000 × 10 × 3 rows, from statement to JSON text, against the same written by hand. */
export function benchLoading(): string[] {
  const design = readDesign(LOADS);
  const db = new Database(':memory:');
  db.exec(scriptOf(sqliteDialect, design.schema));
  db.transaction(() => {
    const player = db.prepare('insert into players values (?, ?, ?)');
    const loan = db.prepare('insert into loans values (?, ?, ?, ?)');
    const remark = db.prepare('insert into remarks values (?, ?, ?)');
    for (let p = 1; p <= 2000; p++) player.run(p, `Player ${p}`, `Town ${p % 40}`);
    for (let l = 1; l <= 20_000; l++) loan.run(l, `2031-0${1 + (l % 9)}-1${l % 10}`, `A note on loan ${l}`, 1 + (l % 2000));
    for (let r = 1; r <= 60_000; r++) remark.run(r, `Remark number ${r}`, 1 + (r % 20_000));
  })();
  const { query } = design.queryOf(LOADS_QUERY);
  if (query === null) throw new Error('the query does not stand');
  const execute = ({ sent, parameters }: Statement): StatementResult => {
    const started = performance.now();
    return {
      rows: statementOf(db, sent).raw().all(parameters) as unknown[][],
      milliseconds: performance.now() - started,
      steps: [],
      refused: null,
    };
  };
  const ours = () => {
    const prepared = preparedPlan(design, planQuery(design.model, query));
    return JSON.stringify(drive(loadRows(sqliteDialect, { prepared, rowLimit: 1_000_000 }), execute).rows);
  };
  const hand = byHand(db);
  if (ours() !== hand()) throw new Error('the two answers differ');
  const times = medians({ ours, hand }, 25);
  return [
    `a load of 2,000 × 10 × 3 rows by batch: ${(times.ours / times.hand).toFixed(2)} × the same by hand (${times.ours.toFixed(0)} ms against ${times.hand.toFixed(0)} ms), planning and log included`,
  ];
}
