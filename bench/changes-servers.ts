import { NO_ANSWERS, readAnswers } from '../core/changes/index.js';
import { readDesign } from '../core/design/index.js';
import { type Engine, makeEmptyAt, openAt, openScratch, type ServerAccess } from '../engines/index.js';
import { applying, planDatabase, wishedSchema } from '../services/index.js';
import { addressOf } from '../tests/engines.js';
import { startServers } from '../tools/servers.js';
import { FEE_ANSWER, loansText, NOW, ROWS } from './loans-tree.js';

const RUNS = 3;

/** What a person writes for the same, each as few statements as the engine lets it be. */
const BY_HAND = {
  postgres: [
    'alter table loans add column fee numeric(6, 2)',
    'update loans set fee = round(worth / 100, 2)',
    'alter table loans alter column fee set not null, add constraint fee_positive check (fee >= 0)',
  ],
  mariadb: [
    'alter table loans add column fee decimal(6, 2)',
    'update loans set fee = round(worth / 100, 2)',
    'alter table loans modify fee decimal(6, 2) not null, add constraint fee_positive check (fee >= 0)',
  ],
} as const;

/** Rows that are made on the server, as many as asked for. */
const SERIES = {
  postgres: (rows: number) => `select i from generate_series(1, ${rows}) as n (i)`,
  mariadb: (rows: number) => `select seq as i from seq_1_to_${rows}`,
} as const;

/** A required column with a check over a million rows of a server, against the statements that a person writes. */
export async function benchChangesOnServers(): Promise<string[]> {
  const servers = await startServers();
  try {
    const lines: string[] = [];
    for (const name of ['postgres', 'mariadb'] as const) {
      const access: ServerAccess = {
        address: addressOf(servers[name]),
        password: servers.password,
        place: null,
        label: name,
        milliseconds: 600_000,
      };
      lines.push(await overRows(name, access));
    }
    return lines;
  } finally {
    await servers.stop();
  }
}

async function overRows(name: keyof typeof BY_HAND, access: ServerAccess): Promise<string> {
  const admin = openAt(name === 'mariadb' ? { ...access, address: { ...access.address, database: '' } } : access);
  const design = readDesign(loansText('  fee      decimal(6, 2)\n  check fee_positive: fee >= 0\n'), name);
  const wished = await wishedSchema(design, () =>
    openScratch({ kind: 'server', access }, { stem: 'bench', name: 'wished', first: true }),
  );
  if (!wished.ok) throw new Error(wished.problem.message);
  const times = { here: [] as number[], byHand: [] as number[] };
  for (let run = 0; run < RUNS; run++)
    for (const way of run % 2 === 0 ? (['here', 'byHand'] as const) : (['byHand', 'here'] as const)) {
      const engine = await filled(name, access);
      times[way].push(way === 'here' ? await here(engine, design, wished.value) : await timed(engine, BY_HAND[name]));
      await engine.close();
      await done(admin, [`drop database bench_loans`]);
    }
  await admin.close();
  const middle = (all: number[]) => all.toSorted((a, b) => a - b)[Math.floor(all.length / 2)] ?? 0;
  const ratio = middle(times.here) / middle(times.byHand);
  return `a required column with a check over ${ROWS.toLocaleString('en')} rows on ${name} (${middle(times.here).toFixed(0)} ms against ${middle(times.byHand).toFixed(0)} ms): ${ratio.toFixed(2)} × the statements by hand`;
}

async function here(
  engine: Engine,
  design: ReturnType<typeof readDesign>,
  wished: Parameters<typeof planDatabase>[2]['wished'],
): Promise<number> {
  const { answers } = readAnswers(FEE_ANSWER);
  const planned = await planDatabase(design, engine, { answers, wished, now: NOW, schemas: null, madeAs: null });
  if (!planned.ok) throw new Error(planned.problem.message);
  const request = applying(planned.value, { text: design.text, name: 'fees', now: NOW, schemas: null });
  const started = performance.now();
  const applied = await engine.apply(request);
  const ended = performance.now();
  if (!applied.ok || applied.value.kind !== 'applied') throw new Error(JSON.stringify(applied));
  return ended - started;
}

async function timed(engine: Engine, statements: readonly string[]): Promise<number> {
  const started = performance.now();
  await done(engine, statements);
  return performance.now() - started;
}

/** A database with the tables of the text as it was, and a million loans. */
async function filled(name: keyof typeof BY_HAND, access: ServerAccess): Promise<Engine> {
  const own = { ...access, address: { ...access.address, database: 'bench_loans' } };
  const empty = await makeEmptyAt(own);
  if (!empty.ok) throw new Error(empty.problem.message);
  const engine = openAt(own);
  const before = readDesign(loansText(''), name);
  const wished = before.schema;
  const planned = await planDatabase(before, engine, { answers: NO_ANSWERS, wished, now: NOW, schemas: null, madeAs: null });
  if (!planned.ok) throw new Error(planned.problem.message);
  await done(
    engine,
    planned.value.plan.operations.map(({ sql }) => sql),
  );
  const label = name === 'postgres' ? "'bow and case ' || i" : "concat('bow and case ', i)";
  await done(engine, [
    "insert into players (id, name) values (1, 'Ines')",
    `insert into loans (id, lent_on, due_on, remark, worth, borrower_id) select i, '2031-01-01', '2031-02-01', ${label}, i % 1000, 1 from (${SERIES[name](ROWS)}) as n`,
  ]);
  return engine;
}

async function done(engine: Engine, statements: readonly string[]): Promise<void> {
  const outcome = await engine.execute(statements);
  if (!outcome.ok) throw new Error(outcome.problem.message);
}
