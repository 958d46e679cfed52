import Database from 'better-sqlite3';
import { readDesign } from '../core/design/index.js';
import { scriptOf, sqliteDialect } from '../core/dialects/index.js';
import { loadRows, type Statement, type StatementResult } from '../core/load/index.js';
import type { LoadWay } from '../core/notation/index.js';
import { planQuery } from '../core/plan/index.js';
import { drive } from '../engines/index.js';
import { statementOf } from '../engines/sqlite/statements.js';
import { preparedPlan } from '../tests/prepared.js';
import { LOADS, LOADS_QUERY } from './loads-tree.js';
import { medians } from './measure.js';

const PARENTS = [10, 500];

type Row = Record<string, unknown>;

/** Joined and JSON loads, limits per owner, aggregates beside rows and the share of compiling, each against the same by hand. */
export function benchWays(): string[] {
  const db = filled(2000, 20_000, 60_000);
  return [
    ...PARENTS.flatMap((parents) => [joined(db, parents), nested(db, parents), limited(db, parents)]),
    ...counted(filled(1000, 1_000_000, 0)),
    compiling(db),
  ];
}

function filled(players: number, loans: number, remarks: number): Database.Database {
  const db = new Database(':memory:');
  db.exec(scriptOf(sqliteDialect, readDesign(LOADS).schema));
  db.transaction(() => {
    const player = db.prepare('insert into players values (?, ?, ?)');
    const loan = db.prepare('insert into loans values (?, ?, ?, ?)');
    const remark = db.prepare('insert into remarks values (?, ?, ?)');
    for (let p = 1; p <= players; p++) player.run(p, `Player ${p}`, `Town ${p % 40}`);
    for (let l = 1; l <= loans; l++) loan.run(l, `2031-0${1 + (l % 9)}-1${l % 10}`, `A note on loan ${l}`, 1 + (l % players));
    for (let r = 1; r <= remarks; r++) remark.run(r, `Remark number ${r}`, 1 + (r % loans));
  })();
  return db;
}

/** A query of ours as text, run over and over as an application would. */
function ours(db: Database.Database, text: string, way: LoadWay | null): () => string {
  const design = readDesign(LOADS);
  const { query, findings } = design.queryOf(text);
  if (query === null) throw new Error(findings.map(({ message }) => message).join('\n'));
  const execute = ({ sent, parameters }: Statement): StatementResult => {
    const started = performance.now();
    const rows = statementOf(db, sent).raw().all(parameters) as unknown[][];
    return { rows, milliseconds: performance.now() - started, steps: [], refused: null };
  };
  return () => {
    const prepared = preparedPlan(design, planQuery(design.model, query), way === null ? {} : { way });
    return JSON.stringify(drive(loadRows(sqliteDialect, { prepared, rowLimit: 1_000_000 }), execute).rows);
  };
}

function line(what: string, run: () => string, hand: () => string, rounds: number): string {
  if (run() !== hand()) throw new Error(`${what}: the two answers differ`);
  const times = medians({ ours: run, hand }, rounds);
  return `${what}: ${(times.ours / times.hand).toFixed(2)} × the same by hand (${times.ours.toFixed(1)} ms against ${times.hand.toFixed(1)} ms)`;
}

function joined(db: Database.Database, parents: number): string {
  const rows = db
    .prepare(
      `select p.id, p.name, p.town, l.id, l.due_on, l.memo, l.borrower_id, r.id, r.body, r.loan_id
       from (select id, name, town from players order by id limit ${parents}) p
       left join loans l on l.borrower_id = p.id left join remarks r on r.loan_id = l.id order by p.id, l.id, r.id`,
    )
    .raw();
  const hand = () => {
    const players: Row[] = [];
    let loans: Row[] = [];
    let remarks: Row[] = [];
    let player: unknown = null;
    let loan: unknown = null;
    for (const [id, name, town, loanId, due_on, memo, borrower_id, remarkId, body, loan_id] of rows.all() as unknown[][]) {
      if (id !== player) {
        loans = [];
        loan = null;
        players.push({ id, name, town, loans });
        player = id;
      }
      if (loanId === null) continue;
      if (loanId !== loan) {
        remarks = [];
        loans.push({ id: loanId, due_on, memo, borrower_id, remarks });
        loan = loanId;
      }
      if (remarkId !== null) remarks.push({ id: remarkId, body, loan_id });
    }
    return JSON.stringify(players);
  };
  const run = ours(db, `${LOADS_QUERY}\nlimit ${parents}`, 'join');
  return line(`SQLite: a load of ${parents} × 10 × 3 rows by join`, run, hand, 31);
}

function nested(db: Database.Database, parents: number): string {
  const rows = db
    .prepare(
      `select p.id, p.name, p.town, (
         select json_group_array(json_object('id', l.id, 'due_on', l.due_on, 'memo', l.memo, 'borrower_id', l.borrower_id, 'remarks', json((
           select json_group_array(json_object('id', r.id, 'body', r.body, 'loan_id', r.loan_id))
           from (select id, body, loan_id from remarks where loan_id = l.id order by id) r))))
         from (select id, due_on, memo, borrower_id from loans where borrower_id = p.id order by id) l)
       from players p order by p.id limit ${parents}`,
    )
    .raw();
  const hand = () =>
    JSON.stringify(
      (rows.all() as unknown[][]).map(([id, name, town, loans]) => ({
        id,
        name,
        town,
        loans: JSON.parse(String(loans)) as unknown,
      })),
    );
  const run = ours(db, `${LOADS_QUERY}\nlimit ${parents}`, 'json');
  return line(`SQLite: a load of ${parents} × 10 × 3 rows by json`, run, hand, 31);
}

function limited(db: Database.Database, parents: number): string {
  const players = db.prepare(`select id, name, town from players order by id limit ${parents}`);
  const loans = db.prepare(
    `select l.id, l.due_on, l.memo, l.borrower_id from json_each(?) o join loans l
       on l.id in (select i.id from loans i where i.borrower_id = o.value order by i.due_on, i.id limit 3)
     order by l.borrower_id, l.due_on, l.id`,
  );
  const hand = () => {
    const owners = players.all() as Row[];
    const groups = new Map<unknown, Row[]>();
    for (const row of loans.all(JSON.stringify(owners.map(({ id }) => id))) as Row[]) {
      const group = groups.get(row.borrower_id);
      if (group === undefined) groups.set(row.borrower_id, [row]);
      else group.push(row);
    }
    for (const owner of owners) owner.loans = groups.get(owner.id) ?? [];
    return JSON.stringify(owners);
  };
  const run = ours(db, `from Player\nload loans order by due_on limit 3\nlimit ${parents}`, null);
  return line(`SQLite: 3 loans of each of ${parents} players`, run, hand, 31);
}

/** Aggregates of a thousand children of each of a thousand rows. */
function counted(db: Database.Database): string[] {
  const all = db.prepare(
    `select p.id, p.name, count(l.id) as n, max(l.due_on) as last from players p left join loans l on l.borrower_id = p.id
     group by p.id order by p.id`,
  );
  const few = db.prepare(
    `select p.id, p.name, (select count(*) from loans l where l.borrower_id = p.id) as n,
       (select max(l.due_on) from loans l where l.borrower_id = p.id) as last from players p order by p.id limit 20`,
  );
  const ofRows = (rows: readonly unknown[]) => JSON.stringify((rows as Row[]).map((row) => ({ ...row, n: String(row.n) })));
  const query = 'from Player\nshow id, name, count(loans) as n, max(loans.due_on) as last\norder by id';
  return [
    line(
      'SQLite: aggregates of 1,000,000 children beside 20 rows',
      ours(db, `${query}\nlimit 20`, null),
      () => ofRows(few.all()),
      15,
    ),
    line('SQLite: aggregates of 1,000,000 children beside all rows', ours(db, query, null), () => ofRows(all.all()), 5),
  ];
}

/** How much of a small query's time goes into reading and compiling it the first time, and when it is run again. */
function compiling(db: Database.Database): string {
  const texts = Array.from(
    { length: 200 },
    (_, at) => `from Player\nwhere id > ${at}\nload loans where due_on > '2031-02-01'\n  remarks\nlimit 50`,
  );
  const design = readDesign(LOADS);
  const run = ours(db, texts[0] ?? '', null);
  let at = 0;
  const compile = () => {
    at = (at + 1) % texts.length;
    const { query } = design.queryOf(texts[at] ?? '');
    if (query === null) throw new Error('the query does not stand');
    return preparedPlan(design, planQuery(design.model, query));
  };
  const times = medians({ compile, run }, 100);
  return `compiling a query for the first time: ${(times.compile / times.run).toFixed(2)} × its run (${times.compile.toFixed(2)} ms against ${times.run.toFixed(2)} ms)`;
}
