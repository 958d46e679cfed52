import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import type { ApplyRequest, Operation } from '../core/changes/index.js';
import { NO_ANSWERS, readAnswers } from '../core/changes/index.js';
import { readDesign } from '../core/design/index.js';
import { withoutOwnTables } from '../core/schema/index.js';
import { applying, type OpenScratch, planDatabase, planUndo, settleHalfDone, wishedSchema } from '../services/index.js';
import { type Engines, makeOn, openEngines } from '../tests/engines.js';
import type { Engine } from './engine.js';
import { rawRows } from './raw-rows.js';

const NOW = '2031-04-12T09:00:00.000000Z';

let engines: Engines;
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(() => engines.close());

const TEXT = `tree 'Small'

entity Branch in branches
  id    integer key
  name  text(40)

entity Player in players
  id    integer key
  name  text(60)
  town  text(40) optional

relation home
  Player knows one Branch as branch
  Branch knows many Player as players
  on delete cascade

sample Branch
  north: name 'North Quay'

sample Player
  ines: name 'Ines', town 'Ferren', branch Branch(north)
  omar: name 'Omar', branch Branch(north)
`;
const REQUIRED = TEXT.replace('town  text(40) optional', 'town  text(40)').replaceAll(
  "name 'Omar', branch",
  "name 'Omar', town 'Tarn', branch",
);

/** A database with rows on MariaDB, whose definitions commit by themselves, and a plan for it. */
async function planned() {
  const { database } = await makeOn(engines, 'mariadb', TEXT);
  const { engine } = database;
  const scratch: OpenScratch = async () => {
    const made = await engines.open('mariadb');
    return { ok: true, value: { engine: made.engine, remove: made.remove } };
  };
  const design = readDesign(REQUIRED, 'mariadb');
  const wished = await wishedSchema(design, scratch);
  if (!wished.ok) throw new Error(wished.problem.message);
  const madeAs = readDesign(TEXT, 'mariadb').schema;
  const { answers } = readAnswers("value players.town = 'Orsby'");
  const again = () => planDatabase(design, engine, { answers, wished: wished.value, now: NOW, schemas: null, madeAs });
  const first = await again();
  if (!first.ok) throw new Error(first.problem.message);
  const request = applying(first.value, { text: REQUIRED, name: 'towns', now: NOW, schemas: null });
  const rows = async (sql: string) => {
    const found = await rawRows(engine, sql);
    if (!found.ok) throw new Error(found.problem.message);
    return found.value.map((row) => row.map(String).join(' '));
  };
  return { database, engine, request, again, rows };
}

/** All of a database, as a plan sees it. */
async function seenOf(engine: Engine): Promise<ApplyRequest['seen']> {
  const read = await engine.introspect();
  if (!read.ok) throw new Error(read.problem.message);
  return withoutOwnTables(read.value.schema);
}

/** A plan with a statement that fails put in before the first that is one of the second part, or of the first. */
function failing(request: ApplyRequest, part: 'first' | 'second', operation: Operation): ApplyRequest {
  const second = request.operations.findIndex(({ back }) => back === undefined);
  const at = part === 'second' ? second + 1 : second;
  return { ...request, operations: request.operations.toSpliced(at, 0, operation) };
}

const GATE = { kind: 'define', sql: 'insert into gate values (1)', what: 'a gate that is not there', table: null } as const;

describe('where definitions commit by themselves', () => {
  test('what cannot be carried out before a table has its place is taken back by itself', async () => {
    const { database, engine, request, again, rows } = await planned();
    const tables = await rows('show tables');
    const done = await engine.apply(failing(request, 'first', { ...GATE, back: [] }));
    expect(done.ok).toBe(false);
    expect((await rows('show tables')).filter((name) => name !== 'family_tree_changes')).toEqual(tables);
    expect(await rows('show triggers')).toEqual([]);
    const plan = await again();
    expect(plan.ok && plan.value.plan.changes).toHaveLength(1);
    expect((await engine.execute(["insert into players (name, branch_id) values ('Teo', 1)"])).ok).toBe(true);
    await database.remove();
  });

  test('of rows that were to be made, and that others have made since, none is taken back', async () => {
    const { database, engine, request, rows } = await planned();
    const second = request.operations.findIndex(({ back }) => back === undefined);
    const [name, kept] = ['branches', 'kept_for_it'];
    expect((await engine.execute([`create table ${kept} (made int)`, `insert into ${kept} values (1)`])).ok).toBe(true);
    // Branch 1 is there by now: to make it fails, and it is not the plan's.
    const making: Operation = {
      kind: 'rows',
      sql: `insert into ${name} (id, name) select made, 'made' from ${kept}`,
      what: 'rows that others point at',
      table: name,
      back: [`delete from ${name} where id in (select made from ${kept})`],
    };
    const seen = { ...request, seen: await seenOf(engine), operations: request.operations.toSpliced(second, 0, making) };
    const done = await engine.apply(seen);
    expect(done.ok).toBe(false);
    expect(await rows('select id, name from branches')).toEqual(['1 North Quay']);
    expect(await rows("show tables like 'family_tree_applying'")).toEqual([]);
    await database.remove();
  });

  test('a taking back that was ended goes on where it was', async () => {
    const { database, engine, request, again, rows } = await planned();
    const second = request.operations.findIndex(({ back }) => back === undefined);
    const gate: Operation = { ...GATE, back: ['drop table gate'] };
    // What takes it back fails too, so that it is left in the middle.
    const done = await engine.apply({ ...request, operations: request.operations.toSpliced(second, 0, gate) });
    expect(done.ok).toBe(false);
    const next = await again();
    expect(next.ok ? '' : next.problem.message).toMatch(/^“towns” was left half done here, .* It can be taken back\.$/);
    expect((await engine.execute(['create table gate (id int)'])).ok).toBe(true);
    expect(await settleHalfDone(engine, 'take back')).toMatchObject({ ok: true, value: { kind: 'taken back', name: 'towns' } });
    expect((await rows('show tables')).toSorted()).toEqual(['branches', 'family_tree_changes', 'players']);
    expect(await rows('show triggers')).toEqual([]);
    await database.remove();
  });

  test('what is left half done after that is told to whoever plans next, is finished, and can be undone', async () => {
    const { database, engine, request, again, rows } = await planned();
    const done = await engine.apply(failing(request, 'second', GATE));
    expect(done.ok).toBe(false);
    const next = await again();
    expect(next.ok ? '' : next.problem.message).toMatch(
      /^“towns” was left half done here, at \d+ of \d+ steps\. It can be finished\.$/,
    );
    expect(await engine.apply(request)).toMatchObject({ ok: true, value: { kind: 'left', canFinish: true, canTakeBack: false } });
    expect(await settleHalfDone(engine, 'take back')).toMatchObject({ ok: true, value: { kind: 'left' } });
    // The cause is done away with.
    expect((await engine.execute(['create table gate (id int)'])).ok).toBe(true);
    expect(await settleHalfDone(engine, 'finish')).toMatchObject({ ok: true, value: { kind: 'applied', number: 1 } });
    const plan = await again();
    expect(plan.ok && plan.value.plan.changes).toEqual([]);
    expect(await rows('select name, town from players order by id')).toEqual(['Ines Ferren', 'Omar Orsby']);
    expect(await rows('show triggers')).toEqual([]);
    const undo = await planUndo(engine, { answers: NO_ANSWERS, now: NOW, schemas: null, madeOf: TEXT });
    if (!undo.ok) throw new Error(undo.problem.message);
    const undone = await engine.apply(applying(undo.value, { text: TEXT, name: 'undo', now: NOW, schemas: null }));
    expect(undone).toMatchObject({ ok: true, value: { kind: 'applied' } });
    expect(await rows('select name, coalesce(town, 0) from players order by id')).toEqual(['Ines Ferren', 'Omar 0']);
    await database.remove();
  });

  test('whoever writes to a table that is made anew is refused meanwhile, or writes to the new one: no row is lost', async () => {
    const { database, engine, request, rows } = await planned();
    const written: Promise<string | null>[] = [];
    const done = await engine.apply(request, {
      progress: (at) => {
        if (at.kind !== 'steps') return;
        const name = `late ${written.length}`;
        const insert = `insert into players (name, town, branch_id) values ('${name}', 'Tarn', 1)`;
        written.push(engine.execute([insert]).then(({ ok }) => (ok ? name : null)));
      },
    });
    expect(done).toMatchObject({ ok: true, value: { kind: 'applied' } });
    const kept = (await Promise.all(written)).filter((name) => name !== null);
    expect(written.length).toBeGreaterThan(kept.length);
    expect(await rows("select name from players where name like 'late %' order by name")).toEqual(kept.toSorted());
    await database.remove();
  });
});

test.each(['sqlite', 'postgres', 'mariadb'] as const)(
  'on %s there is nothing to finish where nothing was begun',
  async (name) => {
    const { database } = await makeOn(engines, name, TEXT);
    expect(await settleHalfDone(database.engine, 'finish')).toEqual({ ok: true, value: { kind: 'nothing left' } });
    await database.remove();
  },
);
