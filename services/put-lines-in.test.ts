import { closeSync, openSync, writeFileSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { type FileMapping, guessUses, problemsOf, readUse, usesOf, writeUse } from '../core/row-files/index.js';
import { type Engine, headOf, openSqlite, type RowFile } from '../engines/index.js';
import { makeTestDatabase, type TestDatabase, temporaryFolder } from '../tests/database.js';
import { processesBelow } from '../tests/processes.js';
import { type LinesOutcome, type PutLinesIn, putLinesIn } from './index.js';

const TEXT = `tree 'Loans from files'

entity Branch in branches
  id    integer key
  name  text(80) unique
  shown as name

entity Instrument in instruments abstract
  id      integer key
  number  text(10) unique
  worth   decimal(8, 2)
  kinds in joined tables by kind

entity StringInstrument is Instrument marked 'string'
  string_count  integer

entity WindInstrument is Instrument marked 'wind'
  pitch  text(4)

entity Loan in loans
  id       bigint key
  lent_on  date
  words    json optional
  late     boolean default false
  made_at  timestamp default now fixed

entity Remark in remarks
  code  uuid key
  body  text(40)

entity Policy in policies given
  number  text(12) key

relation housing
  Instrument knows one Branch as home
  Branch knows many Instrument as instruments

relation borrowing
  Loan knows one Instrument as instrument
  Instrument knows many Loan as loans

relation about
  Remark knows one Instrument | Loan as subject
  each knows many Remark as remarks
  stored in Remark.subject_type with Remark.subject_id

sample StringInstrument
  viola: number 'A-0', worth 1, home Branch(main), string_count 4

sample WindInstrument 0

sample Loan 0

sample Remark 0

sample Branch
  main: name 'Main'
  quay: name 'Quay'
`;

let database: TestDatabase;
let engine: Engine;
const folder = temporaryFolder();
beforeAll(async () => {
  database = await makeTestDatabase(TEXT);
  engine = openSqlite({ path: database.path, mode: 'write', milliseconds: 20_000 });
});
afterAll(async () => {
  await engine.close();
  await database.close();
  folder.remove();
});

type Wish = Partial<Omit<PutLinesIn, 'mapping'>> & {
  readonly form?: RowFile['form'];
  readonly mapping?: Partial<FileMapping>;
};

async function put(
  entity: string,
  content: string | Uint8Array,
  { form = 'csv', mapping = {}, ...wanted }: Wish = {},
): Promise<LinesOutcome> {
  const path = join(folder.path, 'lines');
  writeFileSync(path, content);
  const head = await headOf(path, form, 20);
  const values = head.lines.map((line) => line.values);
  const uses = guessUses(database.design.model, entity, head.columns, values);
  const columns = head.columns.map((name, at) => ({ name, use: uses[at] ?? ({ kind: 'left out' } as const) }));
  return putLinesIn(database.design, engine, {
    mapping: { entity, columns, nothing: '', there: 'refuse', match: [], ...mapping },
    file: { ...head, path },
    sampleKeys: {},
    madeHere: true,
    now: '2031-04-12T09:00:00.000000Z',
    rehearse: true,
    goodOnes: true,
    ...wanted,
  });
}

const told = (outcome: LinesOutcome) =>
  outcome.ok ? outcome.refused.map(({ line, column, message }) => `${line} ${column}: ${message}`) : outcome.problems;

describe('what a column is', () => {
  test('is guessed by its name, be it written as a person, a program or the database does', () => {
    const { model } = database.design;
    const columns = ['Kind', 'NUMBER', 'worth', 'home', 'String count', 'colour'];
    const guessed = guessUses(model, 'Instrument', columns, [['string', 'A-1', '2.50', 'Main', '4', 'red']]);
    expect(guessed.map(writeUse)).toEqual(['the kind', 'number', 'worth', 'home as shown', 'string_count', 'left out']);
    const byKey = guessUses(model, 'Loan', ['lent_on', 'instrument_id'], [['2031-01-01', '3']]);
    expect(byKey.map(writeUse)).toEqual(['lent_on', 'instrument']);
  });

  test('can be written as any use that is offered, and by a field that is not unique', () => {
    const { model } = database.design;
    for (const entity of model.entities.keys())
      for (const { use, written } of usesOf(model, entity)) expect(readUse(model, entity, written)).toEqual(use);
    expect(readUse(model, 'Loan', 'instrument.worth')).toMatchObject({ role: 'instrument', by: { field: 'worth' } });
    expect(readUse(model, 'Loan', 'instrumnt')).toMatchObject({
      problem: expect.stringContaining('Loan has nothing called “instrumnt”'),
    });
  });

  test('is held against what every row has to have before a line is read', () => {
    const { model } = database.design;
    const mapping = (entity: string, ...uses: string[]): FileMapping => ({
      entity,
      columns: uses.map((written) => {
        const use = readUse(model, entity, written);
        if ('problem' in use) throw new Error(use.problem);
        return { name: written, use };
      }),
      nothing: '',
      there: 'refuse',
      match: [],
    });
    expect(problemsOf(model, mapping('Loan', 'lent_on'))).toEqual([
      'Loan.instrument is required, and no column of the file is it.',
    ]);
    expect(problemsOf(model, mapping('Instrument', 'number', 'worth', 'home'))).toEqual([expect.stringContaining('abstract')]);
    expect(problemsOf(model, mapping('Branch', 'left out'))).toEqual([
      'Every column is left out. Say what at least one of them is.',
    ]);
    expect(problemsOf(model, mapping('Policy', 'number'))).toEqual([
      'Policy is given: its rows are read, and never changed here.',
    ]);
    expect(problemsOf(model, mapping('Loan', 'lent_on', 'instrument', 'instrument.number'))).toEqual([
      expect.stringContaining('instrument is told by several columns'),
    ]);
    expect(problemsOf(model, { ...mapping('Branch', 'name'), there: 'skip', match: ['id'] })).toEqual([
      'Rows that are there are told by id, which no column of the file is.',
    ]);
  });
});

describe('kinds in a file', () => {
  const KINDS =
    'kind,number,worth,home,string_count,pitch\nstring,A-1,2.50,Main,4,\nWindInstrument,A-2,3,Quay,,Bb\nWIND,A-3,3,Quay,,C\ndrum,A-4,1,Main,,\nwind,A-5,1,Main,6,C\nwind,A-6,1,Main,,\n';

  test('are told by a column, and what is of another kind stays empty', async () => {
    const outcome = await put('Instrument', KINDS);
    expect(outcome.ok && outcome.report).toMatchObject({ created: 3, refused: 3, kept: false });
    expect(told(outcome)).toEqual([
      '5 kind: “drum” is no kind of Instrument. Write StringInstrument or WindInstrument.',
      '6 string_count: WindInstrument has no such field or role. Leave it empty in this line.',
      '7 pitch: it is required, and this line says nothing.',
    ]);
    expect(await database.rows('from Instrument')).toHaveLength(1);
  });

  test('leave nothing behind in the table of their base where their own refuses a row', async () => {
    const long = await put('Instrument', 'kind,number,worth,home,string_count\nstring,B-1,1,Main,4\nstring,B-1,1,Main,4\n', {
      rehearse: false,
    });
    expect(long.ok && long.report).toMatchObject({ created: 1, refused: 1, kept: true });
    expect(await database.rows('from Instrument')).toHaveLength(2);
    const again = await put('Instrument', 'kind,number,worth,string_count\nstring,B-1,9.75,6\nwind,B-1,1,\nstring,B-2,1,4\n', {
      rehearse: false,
      mapping: { there: 'update' },
    });
    expect(told(again)).toEqual([
      '3 kind: StringInstrument(2) is there, and a row stays of its kind. Delete it first, or leave the line out.',
      '4 null: Its row is not there yet, and StringInstrument.home is required, and no column of the file is it.',
    ]);
    expect(await database.rows("from Instrument\nwhere number <> 'A-0'")).toMatchObject([
      { number: 'B-1', worth: '9.75', string_count: 6 },
    ]);
  });
});

describe('what a file is', () => {
  test('CSV with semicolons, a mark of its encoding, quotes and line ends within values', async () => {
    const csv =
      '\uFEFFid;lent_on;instrument;words\r\n9007199254740993;2031-01-01;1;"{""a"":\n""x;y""}"\r\n\r\n12;2031-02-30;1;\r\n';
    const outcome = await put('Loan', csv);
    expect(outcome.ok && outcome.report).toMatchObject({ lines: 2, created: 1, refused: 1 });
    expect(told(outcome)).toEqual(["5 lent_on: “2031-02-30” is no date: write it as '2031-04-12'."]);
  });

  test('UTF-16 as spreadsheets write it', async () => {
    const outcome = await put('Branch', Buffer.from('\uFEFFname\r\nNørre\r\n', 'utf16le'));
    expect(outcome.ok && outcome.report).toMatchObject({ created: 1, refused: 0 });
  });

  test('JSON lines: a number that JSON cannot hold is refused, what a line does not speak of has its default', async () => {
    const lines = [
      { id: '9007199254740993', lent_on: '2031-01-01', instrument: 1, words: { a: [1, null] }, late: true },
      { lent_on: '2031-01-01', instrument: '1' },
      { id: 9007199254740992, lent_on: '2031-01-01', instrument: 1 },
      { lent_on: ['2031-01-01'], instrument: 77, late: 'perhaps' },
    ];
    const outcome = await put('Loan', `${lines.map((line) => JSON.stringify(line)).join('\n')}\n[1]\n{oops\n`, {
      form: 'json lines',
    });
    expect(outcome.ok && outcome.report).toMatchObject({ lines: 6, created: 2, refused: 4 });
    expect(told(outcome)).toEqual([
      '3 id: 9007199254740992 has more digits than a number of JSON keeps here. Write it as a text, in quotes.',
      '4 lent_on: a list or an object is no date.',
      '4 late: “perhaps” is no boolean: write true or false.',
      '4 instrument: there is no Instrument(77).',
      '5 null: It is JSON, and no object.',
      '6 null: It is no JSON.',
    ]);
  });

  test('what is no text, has no columns, or holds a quote that nobody closes, says so', async () => {
    await expect(put('Branch', new Uint8Array([0x6e, 0x0a, 0xe9, 0x0a]))).rejects.toThrow('It is no text in UTF-8');
    await expect(put('Branch', '')).rejects.toThrow('The file is empty');
    await expect(put('Branch', 'name,name\n')).rejects.toThrow('Two of its columns are called “name”');
    await expect(put('Branch', 'name\n', { form: 'json lines' })).rejects.toThrow('no JSON object');
    await expect(put('Branch', `${Array.from({ length: 2001 }, (_, at) => `c${at}`).join()}\n`)).rejects.toThrow('2,001 columns');
    const open = await put('Branch', 'name\nA\n"B\nC\n');
    expect(told(open)).toEqual([expect.stringMatching(/^3 null: .*quote/i)]);
    const path = join(folder.path, 'endless');
    const file = openSync(path, 'w');
    writeSync(file, 'name\n"');
    for (let at = 0; at < 20; at++) writeSync(file, 'x\n'.repeat(512 * 1024));
    closeSync(file);
    const columns = [{ name: 'name', use: { kind: 'field', field: 'name' } as const }];
    const endless = await putLinesIn(database.design, engine, {
      mapping: { entity: 'Branch', columns, nothing: '', there: 'refuse', match: [] },
      file: { path, form: 'csv', columns: ['name'], delimiter: ',' },
      sampleKeys: {},
      madeHere: true,
      now: '2031-04-12T09:00:00.000000Z',
      rehearse: false,
      goodOnes: true,
    });
    expect(told(endless)).toEqual([expect.stringContaining('a quote in it is opened and not closed')]);
  });
});

test('a row is known by a key with its entity before it where rows of several can be meant; keys are made up where they are uuids', async () => {
  const outcome = await put('Remark', 'body,subject\nOne,Instrument(1)\nTwo,StringInstrument(1)\nThree,1\nFour,Branch(1)\n');
  expect(outcome.ok && outcome.report).toMatchObject({ created: 2, refused: 2 });
  expect(told(outcome)).toEqual([
    '4 subject: “1” names no row: write it as Instrument(1), with the entity before it.',
    '5 subject: “Branch(1)” names no row: write it as Instrument(1), with the entity before it.',
  ]);
});

test('lines that nobody waits for any more leave nothing behind, and the database is as it was', async () => {
  const lines = Array.from({ length: 200_000 }, (_, at) => `Branch ${at}`);
  const stopping = new AbortController();
  let seen = 0;
  const outcome = await put('Branch', `name\n${lines.join('\n')}\n`, {
    rehearse: false,
    signal: stopping.signal,
    progress: ({ lines: done, read, bytes }) => {
      seen = done;
      expect(read).toBeLessThanOrEqual(bytes);
      stopping.abort();
    },
  });
  expect(told(outcome)).toEqual(['Stopped.']);
  expect(seen).toBeGreaterThan(0);
  expect(await database.rows('from Branch')).toHaveLength(2);
});

test('what a process that was killed left half done is taken back, and those that only look see the rows of before', async () => {
  const lines = Array.from({ length: 400_000 }, (_, at) => `Branch ${(at * 7919) % 400_009}`);
  let killed = false;
  const outcome = await put('Branch', `name\n${lines.join('\n')}\n`, {
    rehearse: false,
    // Enough that pages are written into the file before the end.
    progress: ({ lines: done }) => {
      if (killed || done < 300_000) return;
      killed = true;
      for (const { id, program } of processesBelow(process.pid))
        if (program.includes(`${database.path} write`)) process.kill(id, 'SIGKILL');
    },
  });
  expect(killed).toBe(true);
  expect(told(outcome)).toEqual([expect.stringContaining('ended before it answered')]);
  expect(await database.rows('from Branch')).toHaveLength(2);
}, 600_000);

test('many lines that are wrong end a file of which nothing would stay; all of them are told of where the good ones do', async () => {
  const lines = Array.from({ length: 2000 }, (_, at) => (at % 2 === 0 ? 'Main' : `Other ${at}`)).join('\n');
  const ended = await put('Branch', `name\n${lines}\n`, { rehearse: false, goodOnes: false });
  expect(ended.ok && ended.report).toMatchObject({ kept: false, ended: false });
  const all = await put('Branch', `name\n${lines}\n`);
  expect(all.ok && all.report).toMatchObject({ lines: 2000, created: 1000, refused: 1000, ended: true });
  expect(all.ok && all.report.firstRefused).toHaveLength(200);
});
