import { isDeepStrictEqual } from 'node:util';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { type ChangePlan, type Question, readAnswers, tableKey, writtenPlace } from '../core/changes/index.js';
import { readDesign } from '../core/design/index.js';
import { dialects } from '../core/dialects/index.js';
import { importEngines } from '../core/import/index.js';
import type { Schema, Table } from '../core/schema/index.js';
import { typeName } from '../core/values/index.js';
import { applying, type OpenScratch, type PlannedDatabase, planDatabase, planUndo, wishedSchema } from '../services/index.js';
import { arbitraryTree } from '../tests/arbitrary-tree.js';
import { answerFor, arbitraryEdits, edited } from '../tests/edited-tree.js';
import { carriesOut, dialectOf, type EngineName, type Engines, type MadeTree, makeOn, openEngines } from '../tests/engines.js';
import type { Engine } from './index.js';
import { rawRows } from './raw-rows.js';

/** How many pairs of texts are tried on each engine; more with PAIRS in the environment. */
const PAIRS = Number(process.env.PAIRS ?? 100);
const NOW = '2031-04-12T09:00:00.000000Z';
const ON = (process.env.ON ?? 'sqlite,postgres,mariadb').split(',') as EngineName[];

let engines: Engines;
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(() => engines.close());

const scratchOn =
  (name: EngineName): OpenScratch =>
  async () => {
    const database = await engines.open(name);
    return { ok: true, value: { engine: database.engine, remove: () => database.remove() } };
  };

/** Each row of a table, by its key, as texts from which its values can be made again. */
async function rowsOf(
  engine: Engine,
  { name, columns, primaryKey }: Table,
): Promise<ReadonlyMap<string, ReadonlyMap<string, unknown>>> {
  const { exact, print, quote } = dialects[engine.dialect];
  const values = columns.map(({ name: of, type }) => print(exact.read({ kind: 'column', source: null, column: of }, type)));
  const read = await rawRows(engine, `select ${values.join(', ')} from ${quote(name.name)}`);
  if (!read.ok) throw new Error(read.problem.message);
  const rows = read.value.map((row) => new Map(columns.map((column, at) => [column.name, row[at]])));
  return new Map(rows.map((row) => [JSON.stringify(primaryKey.columns.map((column) => row.get(column))), row]));
}

async function contentOf(
  engine: Engine,
  { tables }: Schema,
): Promise<ReadonlyMap<string, ReadonlyMap<string, ReadonlyMap<string, unknown>>>> {
  const content = new Map<string, ReadonlyMap<string, ReadonlyMap<string, unknown>>>();
  for (const table of tables) content.set(tableKey(table.name), await rowsOf(engine, table));
  return content;
}

/** A line that answers a question, by a number that stands for what a person would choose. */
function answerTo(
  { kind, ways, table, columns }: Question,
  wished: Schema,
  dialect: 'sqlite' | 'postgres' | 'mariadb',
  turn: number,
): string {
  const way = ways[turn % ways.length] ?? ways[0];
  if (way === undefined) throw new Error('a question has no answer');
  const own = wished.tables.find((one) => tableKey(one.name) === tableKey(table));
  const declared = own?.columns.find(({ name }) => name === columns[0])?.type ?? 'text';
  const type = importEngines[dialect].typeOf(declared);
  if (way.line.startsWith('map ') || (kind === 'check' && way.line.startsWith('value '))) return ways.at(-1)?.line ?? '';
  const key = own?.primaryKey.columns[0] ?? columns[0] ?? '';
  return way.line.startsWith('keep ')
    ? way.line.replace('… desc', `"${key}" desc`)
    : way.line.replace('…', answerFor(typeName(type)));
}

interface Known {
  readonly madeAs: Schema;
  readonly wished: Schema;
}

interface Asked {
  readonly planned: PlannedDatabase;
  readonly answers: string;
}

/** Answers what a plan asks until it asks no more. */
async function planned(made: MadeTree, text: string, { madeAs, wished }: Known, turn: number): Promise<Asked | string> {
  const { engine } = made.database;
  const design = readDesign(text, dialectOf(made.name));
  const lines: string[] = [];
  for (let round = 0; round < 25; round++) {
    const { answers, faults } = readAnswers(lines.join('\n'));
    expect(faults).toEqual([]);
    const outcome = await planDatabase(design, engine, {
      answers,
      wished,
      now: NOW,
      schemas: null,
      madeAs,
    });
    if (!outcome.ok) throw new Error(`${outcome.problem.message}\n${lines.join('\n')}`);
    const { plan } = outcome.value;
    if (plan.faults.length > 0) return plan.faults.join();
    const [question] = plan.questions;
    if (question === undefined) return { planned: outcome.value, answers: lines.join('\n') };
    // What one answer leaves open another has to settle.
    const line = answerTo(question, wished, design.dialect.name, turn + round);
    lines.push(lines.includes(line) ? answerTo(question, wished, design.dialect.name, turn + round + 1) : line);
  }
  return `asked on and on:\n${lines.join('\n')}`;
}

/** What of the rows is not where it should be. */
function lost(
  plan: ChangePlan,
  answers: string,
  before: Awaited<ReturnType<typeof contentOf>>,
  after: Awaited<ReturnType<typeof contentOf>>,
): string[] {
  const problems: string[] = [];
  for (const pair of plan.paired.tables) {
    if (pair.before === null || pair.after === null) continue;
    const was = before.get(tableKey(pair.before.name));
    const is = after.get(tableKey(pair.after.name));
    const { name } = pair.after;
    // An answer about a column of another table of the same name excuses nothing here.
    const spoken = (of: string) => answers.includes(writtenPlace(name, of));
    const key = pair.columns.filter(({ before: own }) => own !== null && pair.before?.primaryKey.columns.includes(own.name));
    // A key that changes itself is told apart by nothing here.
    const merges =
      /^keep /m.test(answers) &&
      pair.before.foreignKeys.some(({ columns }) => columns.some((one) => pair.before?.primaryKey.columns.includes(one)));
    if (merges) continue;
    if (key.some(({ before: own, after: to }) => own?.type !== to?.type) || key.length !== pair.after.primaryKey.columns.length)
      continue;
    const left = /^(leave out|keep) /m.test(answers);
    if (!left && was?.size !== is?.size) problems.push(`${name.name}: ${was?.size} rows became ${is?.size}`);
    for (const [of, row] of was ?? []) {
      const now = is?.get(of);
      if (now === undefined) {
        if (!left) problems.push(`${name.name}${of} is gone`);
        continue;
      }
      for (const { before: own, after: to } of pair.columns) {
        if (own === null || to === null || own.type.toLowerCase() !== to.type.toLowerCase() || to.generated !== null) continue;
        if (row.get(own.name) === null || spoken(to.name)) continue;
        // A key of several columns is emptied whole.
        if (pair.after.foreignKeys.some(({ columns }) => columns.includes(to.name) && columns.some(spoken))) continue;
        const moved = pair.after.foreignKeys.some(({ columns }) => columns.includes(to.name)) && /^keep /m.test(answers);
        if (!moved && row.get(own.name) !== now.get(to.name))
          problems.push(`${name.name}${of}.${to.name}: ${String(row.get(own.name))} became ${String(now.get(to.name))}`);
      }
    }
  }
  return problems;
}

test.each(ON)(
  '%s: any two texts: the plan makes one of the other, and each row that has a place there is there with its values',
  async (name) => {
    const counted = { pairs: 0, undone: 0, refused: 0, same: 0, changes: 0, answered: 0, faults: 0 };
    await fc.assert(
      fc.asyncProperty(arbitraryTree, arbitraryEdits, fc.nat(30), async (text, edits, turn) => {
        const changed = edited(text, edits);
        const isSound = (one: string) =>
          !readDesign(one, dialectOf(name)).findings.some(({ weight }) => weight === 'error') && carriesOut(name, one);
        if (!isSound(text) || !isSound(changed)) return;
        const made = await makeOn(engines, name, text);
        try {
          const { engine } = made.database;
          const first = await engine.introspect();
          if (!first.ok) throw new Error(first.problem.message);
          const madeAs = first.value.schema;
          const wishes = await wishedSchema(readDesign(changed, dialectOf(name)), scratchOn(name));
          if (!wishes.ok) throw new Error(`${wishes.problem.message}\n${changed}`);
          const wished = wishes.value;
          const asked = await planned(made, changed, { madeAs, wished }, turn);
          if (typeof asked === 'string') {
            counted.faults += 1;
            if (process.env.TELL !== undefined) process.stdout.write(`${asked}\n`);
            return;
          }
          const { plan } = asked.planned;
          const before = await contentOf(engine, madeAs);
          const done = await engine.apply(applying(asked.planned, { text: changed, name: 'a change', now: NOW, schemas: null }));
          const told = `${asked.answers}\n\n${text}\n=======\n${changed}\n${plan.operations.map(({ sql }) => sql).join(';\n')}`;
          // Rows that point at each other within a table, of which some become one, may not be alone any more: the engine says so.
          if (!done.ok && done.problem.code === 'constraint' && /^keep /m.test(asked.answers)) {
            counted.refused += 1;
            return;
          }
          if (!done.ok) throw new Error(`${done.problem.message}\n${told}`);
          if (done.value.kind !== 'applied') throw new Error(`${JSON.stringify(done.value, null, 2)}\n${told}`);
          const problems = lost(plan, asked.answers, before, await contentOf(engine, wished));
          if (problems.length > 0) throw new Error(`${problems.slice(0, 5).join('\n')}\n${told}`);
          const again = await planned(made, changed, { madeAs: wished, wished }, turn);
          expect(typeof again === 'string' ? again : again.planned.plan.changes).toEqual([]);
          // What was written by nobody since comes back to the last value.
          if (plan.changes.length > 0) {
            const undo = await planUndo(engine, { answers: readAnswers('').answers, now: NOW, schemas: null, madeOf: text });
            if (!undo.ok) throw new Error(`${undo.problem.message}\n${told}`);
            const back = `${undo.value.plan.operations.map(({ sql }) => sql).join(';\n')}\n\n======= after\n${told}`;
            expect(
              undo.value.plan.questions.map(({ sentence }) => sentence),
              told,
            ).toEqual([]);
            expect(undo.value.plan.faults, told).toEqual([]);
            const undone = await engine.apply(applying(undo.value, { text: text, name: 'undo', now: NOW, schemas: null }));
            if (!undone.ok) throw new Error(`${undone.problem.message}\n${back}`);
            if (undone.value.kind !== 'applied') throw new Error(`undo: ${JSON.stringify(undone.value, null, 2)}\n${back}`);
            const is = await contentOf(engine, madeAs);
            for (const [table, rows] of before) {
              const wrong = Array.from(rows).filter(([key, row]) => !isDeepStrictEqual(is.get(table)?.get(key), row));
              if (wrong.length > 0 || is.get(table)?.size !== rows.size)
                throw new Error(
                  `${table} did not come back: ${JSON.stringify(wrong.slice(0, 2).map(([key, row]) => [key, [...row], [...(is.get(table)?.get(key) ?? [])]]))}\n${back}`,
                );
            }
            counted.undone += 1;
          }
          counted.pairs += 1;
          counted.changes += plan.changes.length;
          counted.answered += asked.answers === '' ? 0 : asked.answers.split('\n').length;
          if (plan.changes.length === 0) counted.same += 1;
        } finally {
          await made.database.remove();
        }
      }),
      {
        numRuns: PAIRS,
        ...(process.env.RUN === undefined ? {} : { path: process.env.RUN }),
        seed: Number(process.env.SEED ?? 11),
        endOnFailure: true,
      },
    );
    process.stdout.write(`Changed on ${name}: ${JSON.stringify(counted)}\n`);
    expect(counted.pairs).toBeGreaterThan(PAIRS / 3);
  },
  3_600_000,
);
