/**
 * `npm run released -- ENGINE OLD.sql NEW.sql`: two released versions of somebody's schema. Both are made by the engine's own shell and
 * brought in; rows are made for the older; a plan turns it into the newer, is applied, and is taken back. Tells what it asked.
 */
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { basename } from 'node:path';
import Database from 'better-sqlite3';
import { differences, type Question, readAnswers } from '../core/changes/index.js';
import { readDesign } from '../core/design/index.js';
import { dialects } from '../core/dialects/index.js';
import { importSchema } from '../core/import/index.js';
import type { Introspection } from '../engines/index.js';
import { introspect } from '../engines/sqlite/introspect.js';
import { applying, planDatabase, planUndo } from '../services/index.js';
import { answerTo, contentOf, lost } from '../tests/changed-rows.js';
import { type EmptyDatabase, type EngineName, makeOn, openEngines } from '../tests/engines.js';
import { startServers } from './servers.js';

const NOW = '2031-04-12T09:00:00.000000Z';
/** So many rows are made for each table, as far as its constraints let them. */
const ROWS = 40;
const MOST_ROUNDS = 40;

const [name = 'sqlite', older = '', newer = ''] = process.argv.slice(2) as [EngineName, string, string];
// A file needs no server.
const servers =
  name === 'sqlite'
    ? {
        postgres: 'postgres://nobody@localhost/none',
        mariadb: 'mariadb://nobody@localhost/none',
        password: '',
        folder: '',
        stop: async () => {},
      }
    : await startServers();
const engines = openEngines(servers);
const open: EmptyDatabase[] = [];
let isRight = false;
try {
  isRight = await carriedOver();
} finally {
  for (const database of open) await database.remove();
  await engines.close();
  await servers.stop();
}
process.exitCode = isRight ? 0 : 1;

/** What a script makes, as the engine says it. */
async function madeBy(file: string): Promise<Introspection> {
  const script = readFileSync(file, 'utf8');
  if (name === 'sqlite') {
    const db = new Database(':memory:');
    db.exec(script);
    return introspect(db);
  }
  const { engine, address, remove } = await engines.open(name);
  if (address === null) throw new Error(`${name} is no server`);
  const { host, port, user, database } = address;
  if (name === 'postgres')
    execFileSync(
      'psql',
      ['-q', '-v', 'ON_ERROR_STOP=1', '-h', host, '-p', String(port), '-U', user, '-d', database, '-f', file],
      {
        env: { ...process.env, PGPASSWORD: servers.password },
        stdio: ['ignore', 'ignore', 'inherit'],
      },
    );
  else
    execFileSync(
      'mariadb',
      ['--host', host, '--port', String(port), '--user', user, `--password=${servers.password}`, database],
      {
        input: script,
        stdio: ['pipe', 'ignore', 'inherit'],
      },
    );
  const read = await engine.introspect(null);
  await remove();
  if (!read.ok) throw new Error(read.problem.message);
  return read.value;
}

async function carriedOver(): Promise<boolean> {
  const [was, is] = [await madeBy(older), await madeBy(newer)];
  const dialect = dialects[was.dialect];
  const before = importSchema(was, 'Released');
  const after = importSchema(is, 'Released');
  const { model } = readDesign(before.text);
  const samples = Array.from(model.entities.values(), (entity) => `sample ${entity.name} ${ROWS}`);
  const { database, made } = await makeOn(engines, name, `${before.text}\n${samples.join('\n\n')}\n`);
  open.push(database);
  const { engine } = database;
  const first = await engine.introspect(null);
  if (!first.ok) throw new Error(first.problem.message);
  const madeAs = first.value.schema;
  const rows = Object.values(made.rows).reduce((sum, count) => sum + count, 0);
  tell(
    `${basename(older)} → ${basename(newer)} on ${name}: ${was.schema.tables.length} tables → ${is.schema.tables.length}, ${rows} rows`,
  );
  for (const words of differences(dialect, was.schema, madeAs)) tell(`  brought in otherwise: ${words}`);
  const lines: string[] = [];
  for (let asked = 0; asked < MOST_ROUNDS; asked++) {
    const { answers } = readAnswers(lines.join('\n'));
    const planned = await planDatabase(readDesign(after.text, was.dialect), engine, {
      answers,
      wished: is.schema,
      now: NOW,
      schemas: null,
      madeAs,
    });
    if (!planned.ok) throw new Error(planned.problem.message);
    const { plan } = planned.value;
    for (const fault of plan.faults) tell(`  fault: ${fault}`);
    for (const question of plan.questions) {
      const line = answered(question, is, lines);
      tell(`  asks: ${question.sentence}\n    ${line}`);
      lines.push(line);
    }
    if (plan.questions.length > 0) continue;
    if (plan.faults.length > 0) return false;
    const content = await contentOf(engine, madeAs);
    const request = applying(planned.value, { text: after.text, name: 'the newer', now: NOW, schemas: null });
    const started = performance.now();
    const applied = await engine.apply(request);
    if (!applied.ok) throw new Error(applied.problem.message);
    tell(
      `  ${plan.changes.length} changes, ${plan.operations.length} statements: ${applied.value.kind} in ${Math.round(performance.now() - started)} ms`,
    );
    if (applied.value.kind !== 'applied') {
      tell(JSON.stringify(applied.value, null, 2));
      return false;
    }
    const problems = lost(plan, lines.join('\n'), content, await contentOf(engine, is.schema));
    for (const problem of problems) tell(`  lost: ${problem}`);
    const undo = await planUndo(engine, { answers: readAnswers('').answers, now: NOW, schemas: null, madeOf: before.text });
    if (!undo.ok) throw new Error(undo.problem.message);
    for (const { sentence } of undo.value.plan.questions) tell(`  the way back asks: ${sentence}`);
    if (undo.value.plan.questions.length > 0) return false;
    const back = await engine.apply(applying(undo.value, { text: before.text, name: 'back', now: NOW, schemas: null }));
    if (!back.ok) throw new Error(back.problem.message);
    const isSame = told(listed(content), listed(await contentOf(engine, madeAs)));
    tell(`  taken back: ${back.value.kind}, the rows are ${isSame ? 'as they were' : 'OTHER THAN THEY WERE'}`);
    return back.value.kind === 'applied' && isSame && problems.length === 0;
  }
  tell('  asked on and on');
  return false;
}

/** What a person would say who wants the newer tables with what of the rows fits them. */
function answered(question: Question, is: Introspection, lines: readonly string[]): string {
  const leaving = question.ways.find(({ line }) => line.startsWith('leave out '));
  if (leaving !== undefined && !lines.includes(leaving.line)) return leaving.line;
  return answerTo(question, is.schema, is.dialect, lines.filter((line) => line.includes(question.of)).length);
}

/** Each row of each table, as a line. */
function listed(content: Awaited<ReturnType<typeof contentOf>>): readonly string[] {
  return Array.from(content, ([table, own]) =>
    Array.from(own.values(), (row) => `${table.replace('.', '')} ${JSON.stringify(Array.from(row.values()))}`),
  )
    .flat()
    .sort();
}

/** Tells which rows are not as they were; whether all are. */
function told(before: readonly string[], after: readonly string[]): boolean {
  const [gone, come] = [before.filter((row) => !after.includes(row)), after.filter((row) => !before.includes(row))];
  for (const row of gone.slice(0, 5)) tell(`  not there any more: ${row.slice(0, 200)}`);
  for (const row of come.slice(0, 5)) tell(`  not there before: ${row.slice(0, 200)}`);
  return before.length === after.length && gone.length + come.length === 0;
}

function tell(words: string): void {
  process.stdout.write(`${words}\n`);
}
