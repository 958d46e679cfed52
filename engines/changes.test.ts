import { isDeepStrictEqual } from 'node:util';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { readAnswers } from '../core/changes/index.js';
import { readDesign } from '../core/design/index.js';
import type { Schema } from '../core/schema/index.js';
import { applying, type OpenScratch, type PlannedDatabase, planDatabase, planUndo, wishedSchema } from '../services/index.js';
import { arbitraryTree } from '../tests/arbitrary-tree.js';
import { answerTo, contentOf, lost } from '../tests/changed-rows.js';
import { arbitraryEdits, edited } from '../tests/edited-tree.js';
import { carriesOut, dialectOf, type EngineName, type Engines, type MadeTree, makeOn, openEngines } from '../tests/engines.js';

/** How many pairs of texts are tried on each engine; more with PAIRS in the environment. */
const PAIRS = Number(process.env.PAIRS ?? 70);
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
