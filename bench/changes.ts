import { copyFileSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { NO_ANSWERS, NO_FORMER_NAMES, planChanges, readAnswers } from '../core/changes/index.js';
import { readDesign } from '../core/design/index.js';
import { scriptOf, sqliteDialect } from '../core/dialects/index.js';
import { openSqlite } from '../engines/index.js';
import { applying, planDatabase, wishedSchema } from '../services/index.js';
import { generatedTree } from './generated-tree.js';
import { FEE_ANSWER, loansText, NOW, ROWS } from './loans-tree.js';
import { medians } from './measure.js';

const RUNS = 5;

/** A required column with a check over a million rows, against the rebuild that a person writes; planning between large designs. */
export async function benchChanges(): Promise<string[]> {
  const folder = mkdtempSync(join(tmpdir(), 'bench-changes-'));
  try {
    return [await overRows(folder), planning()];
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

async function overRows(folder: string): Promise<string> {
  const path = join(folder, 'loans.db');
  const db = new Database(path);
  db.exec(scriptOf(sqliteDialect, readDesign(loansText('')).schema));
  db.exec(`insert into players values (1, 'Ines');
    with recursive n(i) as (select 1 union all select i + 1 from n where i < ${ROWS})
    insert into loans (id, lent_on, due_on, remark, worth, borrower_id) select i, '2031-01-01', '2031-02-01', 'bow and case ' || i, i % 1000, 1 from n`);
  db.close();
  const design = readDesign(loansText('  fee      decimal(6, 2)\n  check fee_positive: fee >= 0\n'));
  const scratch = openSqlite({ path: join(folder, 'wished.db'), mode: 'make', milliseconds: 60_000 });
  const wished = await wishedSchema(design, () =>
    Promise.resolve({ ok: true, value: { engine: scratch, remove: () => scratch.close() } }),
  );
  if (!wished.ok) throw new Error(wished.problem.message);
  const { answers } = readAnswers(FEE_ANSWER);
  const times = { here: [] as number[], byHand: [] as number[] };
  for (let run = 0; run <= RUNS; run++) {
    const [own, other] = ['own.db', 'other.db'].map((name) => join(folder, name));
    if (own === undefined || other === undefined) throw new Error('two files');
    for (const copy of [own, other]) copyFileSync(path, copy);
    const engine = openSqlite({ path: own, mode: 'write', milliseconds: 600_000 });
    const planned = await planDatabase(design, engine, { answers, wished: wished.value, now: NOW, schemas: null, madeAs: null });
    if (!planned.ok) throw new Error(planned.problem.message);
    const request = applying(planned.value, { text: design.text, name: 'fees', now: NOW, schemas: null });
    const started = performance.now();
    const done = await engine.apply(request);
    const ended = performance.now();
    await engine.close();
    if (!done.ok || done.value.kind !== 'applied') throw new Error(JSON.stringify(done));
    const hand = new Database(other);
    // It is asked to look at its keys, as whoever writes this by hand should.
    const byHand = statementsByHand(design.schema);
    const begun = performance.now();
    hand.pragma('foreign_keys = off');
    hand.pragma('legacy_alter_table = on');
    hand.exec(`begin immediate; ${byHand}`);
    hand.prepare('pragma foreign_key_check').all();
    hand.exec('commit');
    const finished = performance.now();
    hand.close();
    // The first fills the caches.
    if (run === 0) continue;
    times.here.push(ended - started);
    times.byHand.push(finished - begun);
  }
  const middle = (numbers: number[]) => numbers.toSorted((a, b) => a - b)[Math.floor(numbers.length / 2)] ?? 0;
  const ratio = middle(times.here) / middle(times.byHand);
  return `a required column with a check over ${ROWS.toLocaleString('en')} rows (${middle(times.here).toFixed(0)} ms against ${middle(times.byHand).toFixed(0)} ms): ${ratio.toFixed(2)} × the rebuild by hand`;
}

function statementsByHand(schema: Parameters<typeof sqliteDialect.createStatements>[0]): string {
  const [create = '', ...rest] = sqliteDialect.createStatements({
    ...schema,
    tables: schema.tables.filter(({ name }) => name.name === 'loans'),
  });
  const made = create.replace('create table loans', 'create table loans_new');
  const copy = `insert into loans_new (id, lent_on, due_on, remark, worth, fee, borrower_id)
    select id, lent_on, due_on, remark, worth, round(worth / 100.0, 2), borrower_id from loans`;
  return `${[made, copy, 'drop table loans', 'alter table loans_new rename to loans', ...rest].join(';\n')};`;
}

/** What changes between two designs of 500 entities, against reading one of them. */
function planning(): string {
  const text = generatedTree(500, 1500);
  const changed = text.replace(/^ {2}weight decimal\(8, 2\) optional$/gm, (line, at: number) =>
    at % 7 === 0 ? `${line}\n  fee decimal(6, 2) optional` : line,
  );
  const [before, after] = [readDesign(text).schema, readDesign(changed).schema];
  const plan = () => {
    const planning = planChanges({
      dialect: sqliteDialect,
      before,
      after,
      stated: after,
      former: NO_FORMER_NAMES,
      answers: NO_ANSWERS,
      last: before,
      given: [],
      asides: [],
      doneByHand: [],
      byHandBefore: [],
      number: 1,
      now: NOW,
    });
    let turn = planning.next();
    while (turn.done !== true) turn = planning.next([Array.from({ length: 20 }, () => 0)]);
    return turn.value.changes.length;
  };
  const changes = plan();
  const { planned, read } = medians({ planned: plan, read: () => readDesign(text) }, 7);
  return `planning ${changes} changes between designs of 500 entities (${planned.toFixed(0)} ms against ${read.toFixed(0)} ms): ${(planned / read).toFixed(2)} × reading one of them`;
}
