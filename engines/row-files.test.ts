import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { type Design, readDesign } from '../core/design/index.js';
import { columnsOut, type FileMapping, guessUses, problemsOf, readUse } from '../core/row-files/index.js';
import { fillDatabase, type LinesOutcome, nowOf, putLinesIn, takeRowsOut } from '../services/index.js';
import { ENGINES, ONE_OF_EACH } from '../tests/agreement.js';
import { arbitraryTree } from '../tests/arbitrary-tree.js';
import { temporaryFolder } from '../tests/database.js';
import { carriesOut, dialectOf, type EngineName, type Engines, makeOn, openEngines } from '../tests/engines.js';
import { emptied } from '../tests/put-in.js';
import { type Engine, headOf, type RowFile } from './index.js';

/** How many trees are made up; more with TREES in the environment. */
const TREES = Number(process.env.TREES ?? 5);
/** A text that no sample has. */
const NOTHING = '\\N';
/** A row may point at one of a file that comes later: so often all files are gone through again. */
const MOST_TIMES = 6;

let engines: Engines;
const folder = temporaryFolder();
const counted = { trees: 0, files: 0, lines: 0 };
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(async () => {
  await engines.close();
  folder.remove();
  process.stdout.write(`Out and in again: ${counted.trees} databases, ${counted.files} files, ${counted.lines} lines\n`);
});

async function fileOf(design: Design, engine: Engine, entity: string, form: RowFile['form']): Promise<string> {
  const pieces: string[] = [];
  const request = {
    rows: { entity, where: '', orderBy: '', via: null },
    columns: columnsOut(design.model, entity),
    form,
    delimiter: ',',
    nothing: NOTHING,
  };
  const taken = await takeRowsOut({ design, engine, sampleKeys: {}, madeHere: true }, request, async (piece) => {
    pieces.push(piece);
  });
  if (!taken.ok) throw new Error(taken.problems.join(' '));
  return pieces.join('');
}

interface Into {
  readonly design: Design;
  readonly engine: Engine;
  readonly entity: string;
}

/** Puts a text in as a file of lines. */
async function put(
  { design, engine, entity }: Into,
  text: string,
  form: RowFile['form'],
  wanted: Partial<FileMapping> & {
    readonly goodOnes?: boolean;
    readonly uses?: readonly string[];
    readonly refusedTo?: string;
  } = {},
): Promise<LinesOutcome> {
  const { goodOnes = false, uses, refusedTo, ...mapping } = wanted;
  const path = join(folder.path, `${entity}.${form === 'csv' ? 'csv' : 'jsonl'}`);
  writeFileSync(path, text);
  const head = await headOf(path, form, 50);
  const guessed = guessUses(
    design.model,
    entity,
    head.columns,
    head.lines.map(({ values }) => values),
  );
  const columns = head.columns.map((name, at) => {
    const use =
      uses === undefined ? (guessed[at] ?? ({ kind: 'left out' } as const)) : readUse(design.model, entity, uses[at] ?? '');
    if ('problem' in use) throw new Error(use.problem);
    return { name, use };
  });
  return putLinesIn(design, engine, {
    mapping: { entity, columns, nothing: '', there: 'refuse', match: [], ...mapping },
    file: { ...head, path },
    sampleKeys: {},
    madeHere: true,
    now: nowOf(design.model, true),
    rehearse: false,
    goodOnes,
    ...(refusedTo === undefined ? {} : { refusedTo }),
  });
}

/** All rows of a database as files, put into another with the same tables: the files of that are the same. */
async function outAndIn(name: EngineName, stated: string): Promise<void> {
  // Nothing is put into a table that is given.
  const text = stated.replaceAll(/^(entity .*) given$/gm, '$1');
  if (!carriesOut(name, text)) return;
  const at = await makeOn(engines, name, text);
  const other = await engines.open(name);
  try {
    if (at.made.unsatisfied.length > 0) return;
    const { design } = at;
    const empty = emptied(readDesign(text, dialectOf(name)));
    const filled = await fillDatabase(empty, other.engine);
    if (!filled.ok) throw new Error(filled.problem.message);
    const form = counted.trees % 2 === 0 ? 'csv' : 'json lines';
    const files = new Map<string, string>();
    // Of kinds the base alone: its file says the kind of each row.
    for (const { name: entity, kinds, given } of design.model.entities.values()) {
      if ((kinds !== null && kinds.base !== null) || given) continue;
      const uses = columnsOut(design.model, entity).map((use) => ({ name: '', use }));
      // What is hidden stands in no answer, so that a row which has to have it cannot be put in from one.
      const mapping = { entity, columns: uses, nothing: NOTHING, there: 'refuse', match: [] } as const;
      if (uses.length === 0 || problemsOf(empty.model, mapping).length > 0) return;
      const file = await fileOf(design, at.database.engine, entity, form);
      if (file.split('\n').length > (form === 'csv' ? 2 : 1)) files.set(entity, file);
    }
    let open = new Set(files.keys());
    let why = '';
    for (let time = 0; open.size > 0 && time < MOST_TIMES; time++) {
      const again = new Set<string>();
      for (const entity of open) {
        const into = { design: empty, engine: other.engine, entity };
        const outcome = await put(into, files.get(entity) ?? '', form, { nothing: NOTHING, goodOnes: true, there: 'skip' });
        if (!outcome.ok) throw new Error(`${name}: ${outcome.problems.join(' ')}\n${text}`);
        if (outcome.report.refused > 0) {
          again.add(entity);
          why = `${name}, ${entity}: ${JSON.stringify(outcome.refused[0])}`;
        }
      }
      open = again;
    }
    if (open.size > 0 && !why.includes('there is no')) throw new Error(`${why}\n${text}`);
    counted.trees += 1;
    for (const [entity, file] of files) {
      // Rows that point at each other in a circle cannot be put in one after the other.
      if (open.has(entity)) continue;
      const back = await fileOf(empty, other.engine, entity, form);
      if (back !== file) {
        const lines = file.split('\n');
        const differs = back.split('\n').findIndex((line, index) => line !== lines[index]);
        throw new Error(`${name}, ${entity}:\n${lines[differs]}\n${back.split('\n')[differs]}\n${text}`);
      }
      counted.files += 1;
      counted.lines += file.split('\n').length;
    }
  } finally {
    await at.database.remove();
    await other.remove();
  }
}

const TEXTS = ['tests/forms/forms.kin', 'tests/forms/joined.kin', 'tests/forms/several.kin', 'demo/library.kin'];

test.each(TEXTS)(
  'the rows of %s stand in files, and put in from them are the same, on each engine',
  async (file) => {
    const before = counted.files;
    for (const name of ONE_OF_EACH) await outAndIn(name, readFileSync(file, 'utf8'));
    expect(counted.files).toBeGreaterThan(before);
  },
  600_000,
);

test('and those of trees of every form, on each engine', async () => {
  await fc.assert(
    fc.asyncProperty(arbitraryTree, async (text) => {
      for (const name of ONE_OF_EACH) await outAndIn(name, text);
    }),
    { numRuns: TREES, seed: 23, endOnFailure: true },
  );
}, 1_200_000);

const LIBRARY = `tree 'Loans'

entity Branch in branches
  id    integer key
  name  text(80) unique
  shown as name
  rule not_crowded: count(players) < 5, message 'A branch has four players at most'

entity Player in players
  id      integer key
  name    text(120)
  email   text(40) unique message 'Somebody has this address already'
  joined  date default today
  steward boolean default false
  level   integer optional in (1, 2, 3)
  check named: name <> '', message 'A player has a name'
  rule grown: level is null or level < 3 or steward, message 'Only a steward is of level 3'

relation belonging
  Player knows one Branch as branch
  Branch knows many Player as players

relation mentoring
  Player knows at most one Player as mentor
  Player knows many Player as pupils

sample Branch
  main: name 'Main'
  quay: name 'Quay'

sample Player
  ines: name 'Ines', email 'ines@x.example', branch Branch(main)
`;

/** A database of the library on each engine, in turn. */
async function onEach(work: (into: Into, name: EngineName) => Promise<void>): Promise<void> {
  for (const name of ENGINES) {
    const { design, database } = await makeOn(engines, name, LIBRARY);
    try {
      await work({ design, engine: database.engine, entity: 'Player' }, name);
    } finally {
      await database.remove();
    }
  }
}

const playersIn = (into: Into) => fileOf(into.design, into.engine, 'Player', 'csv');

test('where a line is refused nothing stays; the good ones do where that is asked for, and the others stand in a file', async () => {
  const text = [
    'name,email,branch,level',
    'Two,two@x.example,Quay,1',
    'Twice,ines@x.example,Quay,',
    '"",none@x.example,Quay,',
    'Odd,odd@x.example,Nowhere,9',
    'High,high@x.example,Main,3',
    '"Over\ntwo lines",over@x.example,Main,2',
    'Few,few@x.example',
  ].join('\n');
  await onEach(async (into) => {
    const before = await playersIn(into);
    const none = await put(into, text, 'csv', { nothing: '-' });
    expect(none.ok && { ...none.report, firstRefused: 0, first: 0 }).toMatchObject({ created: 2, refused: 5, kept: false });
    expect(await playersIn(into)).toBe(before);
    const refusedTo = join(folder.path, 'left.csv');
    const some = await put(into, text.replaceAll(/,$/gm, ',-'), 'csv', { nothing: '-', goodOnes: true, refusedTo });
    expect(some.ok && some.refused.map(({ line, column, message }) => `${line} ${column}: ${message}`)).toEqual([
      expect.stringMatching(/^3 null: Somebody has this address already\. It is Player\(1\)\./),
      expect.stringMatching(/^4 null: A player has a name\./),
      expect.stringMatching(/^5 level: it is none of 1, 2, 3\.$/),
      '5 branch: there is no Branch “Nowhere”.',
      expect.stringMatching(/^6 null: Only a steward is of level 3\./),
      '9 null: It has 2 values, and the file has 4 columns.',
    ]);
    // A key that a refused row was given is used by no other on some engines.
    const kept = (await playersIn(into)).replaceAll(/^\d+/gm, 'N').split('\r\n');
    expect(kept.slice(1, -1)).toEqual([
      'N,Ines,ines@x.example,2030-01-01,false,\\N,1,\\N',
      'N,Two,two@x.example,2030-01-01,false,1,2,\\N',
      'N,"Over\ntwo lines",over@x.example,2030-01-01,false,2,1,\\N',
    ]);
    expect(readFileSync(refusedTo, 'utf8').split('\r\n').at(-2)).toBe(
      'Few,few@x.example,,,"It has 2 values, and the file has 4 columns."',
    );
  });
}, 600_000);

test('rows that are there are left as they are, or changed, as one likes; the same row twice in a file is one row', async () => {
  const text = 'email,name,branch\nines@x.example,Ines Q,Quay\nnew@x.example,New,Main\nnew@x.example,Newer,Main\n';
  await onEach(async (into) => {
    const skipped = await put(into, text, 'csv', { there: 'skip' });
    expect(skipped.ok && skipped.report).toMatchObject({ created: 1, skipped: 2, updated: 0, refused: 0 });
    const changed = await put(into, text, 'csv', { there: 'update', match: ['email'] });
    expect(changed.ok && changed.report).toMatchObject({ created: 0, updated: 3, refused: 0 });
    expect(await playersIn(into)).toMatch(/Ines Q,ines@x.example.*\r\n\d+,Newer,new@x.example/);
  });
}, 600_000);

test('a line may name a row that a line before it puts in', async () => {
  const text =
    'name,email,branch,chief\nA,a@x.example,Main,\nB,b@x.example,Main,a@x.example\nC,c@x.example,Main,b@x.example\nD,d@x.example,Main,e@x.example\n';
  await onEach(async (into) => {
    const outcome = await put(into, text, 'csv', { goodOnes: true, uses: ['name', 'email', 'branch as shown', 'mentor.email'] });
    expect(outcome.ok && outcome.report).toMatchObject({ created: 3, refused: 1 });
    expect(outcome.ok && outcome.refused).toMatchObject([
      { line: 5, column: 'chief', message: 'there is no Player “e@x.example”.' },
    ]);
  });
}, 600_000);

test('a rule of rows that stand in no line is kept for all the lines together', async () => {
  const lines = Array.from({ length: 5 }, (_, at) => `P${at},p${at}@x.example,Quay`);
  await onEach(async (into) => {
    const before = await playersIn(into);
    const outcome = await put(into, `name,email,branch\n${lines.join('\n')}\n`, 'csv', { goodOnes: true });
    expect(outcome).toEqual({
      ok: false,
      problems: ['A branch has four players at most. What keeps it: Branch, rule not_crowded. Nothing was written.'],
    });
    expect(await playersIn(into)).toBe(before);
    const fewer = await put(into, `name,email,branch\n${lines.slice(1).join('\n')}\n`, 'csv');
    expect(fewer.ok && fewer.report).toMatchObject({ created: 4, kept: true });
  });
}, 600_000);
