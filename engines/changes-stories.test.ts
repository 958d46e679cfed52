import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { type Applied, type ChangePlan, readAnswers } from '../core/changes/index.js';
import { readDesign } from '../core/design/index.js';
import type { Schema } from '../core/schema/index.js';
import { applying, byHandWords, letGo, type PlannedDatabase, planDatabase, planUndo, wishedSchema } from '../services/index.js';
import { dialectOf, type EmptyDatabase, type EngineName, type Engines, makeOn, openEngines } from '../tests/engines.js';
import { rawRows } from './raw-rows.js';

const NOW = '2031-04-12T09:00:00.000000Z';
const ENGINES: readonly EngineName[] = ['sqlite', 'postgres', 'mariadb'];

let engines: Engines;
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(() => engines.close());

/** A database that was made from a text, and is changed to others. */
class Story {
  private constructor(
    private readonly name: EngineName,
    private readonly text: string,
    readonly database: EmptyDatabase,
    private readonly madeAs: Schema,
  ) {}

  static async of(name: EngineName, text: string): Promise<Story> {
    const { database } = await makeOn(engines, name, text);
    const read = await database.engine.introspect();
    if (!read.ok) throw new Error(read.problem.message);
    return new Story(name, text, database, read.value.schema);
  }

  async planned(text: string, answers = ''): Promise<PlannedDatabase> {
    const design = readDesign(text, dialectOf(this.name));
    expect(design.findings.filter(({ weight }) => weight === 'error')).toEqual([]);
    const read = readAnswers(answers);
    expect(read.faults).toEqual([]);
    const wished = await wishedSchema(design, async () => {
      const { engine, remove } = await engines.open(this.name);
      return { ok: true, value: { engine, remove } };
    });
    if (!wished.ok) throw new Error(wished.problem.message);
    const { madeAs } = this;
    const request = { answers: read.answers, wished: wished.value, now: NOW, schemas: null, madeAs };
    const planned = await planDatabase(design, this.database.engine, request);
    if (!planned.ok) throw new Error(planned.problem.message);
    return planned.value;
  }

  async plan(text: string, answers = ''): Promise<ChangePlan> {
    return (await this.planned(text, answers)).plan;
  }

  async apply(text: string, answers = ''): Promise<ChangePlan> {
    const planned = await this.planned(text, answers);
    expect(planned.plan.questions.map(({ sentence }) => sentence)).toEqual([]);
    expect(planned.plan.faults).toEqual([]);
    await this.carryOut(planned, text);
    return planned.plan;
  }

  /** What comes of carrying a plan out, whatever that is. */
  async applied(text: string, answers = ''): Promise<Applied> {
    const planned = await this.planned(text, answers);
    const done = await this.database.engine.apply(applying(planned, { text, name: 'a change', now: NOW, schemas: null }));
    if (!done.ok) throw new Error(done.problem.message);
    return done.value;
  }

  /** The plan that takes the newest one back. */
  async undone(answers = ''): Promise<PlannedDatabase> {
    const request = { answers: readAnswers(answers).answers, now: NOW, schemas: null, madeOf: this.text };
    const planned = await planUndo(this.database.engine, request);
    if (!planned.ok) throw new Error(planned.problem.message);
    return planned.value;
  }

  async undo(answers = ''): Promise<ChangePlan> {
    const planned = await this.undone(answers);
    if (planned.plan.questions.length === 0) await this.carryOut(planned, this.text);
    return planned.plan;
  }

  private async carryOut(planned: PlannedDatabase, text: string): Promise<void> {
    const done = await this.database.engine.apply(applying(planned, { text, name: 'a change', now: NOW, schemas: null }));
    if (!done.ok) throw new Error(`${done.problem.message}\n${planned.plan.operations.map(({ sql }) => sql).join(';\n')}`);
    expect(done.value, JSON.stringify(done.value)).toMatchObject({ kind: 'applied' });
  }

  async rows(sql: string): Promise<string[]> {
    const read = await rawRows(this.database.engine, sql);
    if (!read.ok) throw new Error(read.problem.message);
    return read.value.map((row) => row.map((value) => (value === null ? '-' : String(value))).join(' | '));
  }

  async run(...statements: string[]): Promise<void> {
    const done = await this.database.engine.execute(statements);
    if (!done.ok) throw new Error(done.problem.message);
  }
}

const PLAYERS = `tree 'Cinder Row Instrument Library'

entity Branch in branches
  id    integer key
  name  text(40)

entity Player in players
  id     integer key
  name   text(60)
  email  text(80)
  town   text(40) optional

relation home_branch
  Player knows one Branch as branch
  Branch knows many Player as players
  on delete cascade

entity Loan in loans
  id      integer key
  lent_on date

relation borrowing
  Loan knows one Player as borrower
  Player knows many Loan as loans
  on delete cascade

sample Branch
  north: name 'North Quay'
  south: name 'South Gate'

sample Player
  ines: name 'Ines', email 'ines@example.org', town 'Ferren', branch Branch(north)
  omar: name 'Omar', email 'omar@example.org', town null, branch Branch(south)
  teo: name 'Teo', email 'ines@example.org', town 'Marsh', branch Branch(south)

sample Loan
  one: lent_on '2031-01-01', borrower Player(ines)
  two: lent_on '2031-02-01', borrower Player(teo)
  three: lent_on '2031-03-01', borrower Player(omar)
`;
/** The text without its samples, which a plan does not look at, after a change. */
const changed = (from: string | RegExp, to: string) => {
  const text = PLAYERS.slice(0, PLAYERS.indexOf('sample Branch'));
  expect(text).toMatch(from);
  return text.replace(from, to);
};

test('rows of a table without a key of its own are left out, and all of them come back', async () => {
  const remarks = (body: string) => `entity Remark in remarks\n  body  ${body}\n  key (rowid)\n\nsample Remark 0\n`;
  const story = await Story.of('sqlite', remarks('text(80) optional'));
  await story.run("insert into remarks (body) values ('one'), (null), ('one'), (null)");
  await story.apply(remarks('text(80)'), 'leave out remarks.body');
  expect(await story.rows('select body from remarks')).toEqual(['one', 'one']);
  await story.undo();
  expect(await story.rows('select body from remarks order by body')).toEqual(['-', '-', 'one', 'one']);
});

test('of rows without a key of their own that are to be alone one stays, and the others come back', async () => {
  const tags = (unique: string) => `entity Tag in tags\n  label  text(20)\n  key (rowid)\n${unique}\nsample Tag 0\n`;
  const story = await Story.of('sqlite', tags(''));
  await story.run("insert into tags (label) values ('old'), ('new'), ('old')");
  const [question] = (await story.plan(tags('  unique (label), as index tags_label\n'))).questions;
  expect(question?.ways).toHaveLength(1);
  await story.apply(tags('  unique (label), as index tags_label\n'), 'keep tags (label) by label');
  expect(await story.rows('select label from tags order by label')).toEqual(['new', 'old']);
  await story.undo();
  expect(await story.rows('select label from tags order by label')).toEqual(['new', 'old', 'old']);
});

test('a type of a database of its own has other values, and a sequence another size: columns and rows go on', async () => {
  const bows = (values: string, size: string) =>
    `tree 'Bows'\n  dialect postgres\n  kept 'create type shade as enum (${values.replaceAll("'", "''")})'\n  kept 'create sequence bow_numbers${size}'\n\nchoice Shade\n${values.replaceAll(', ', '\n').replaceAll(/^/gm, '  ')}\n\nentity Bow in bows\n  id    integer key\n  tone  Shade default 'light' stored as 'shade'\n\nsample Bow 0\n`;
  const before = bows("'light', 'dark'", ' as integer');
  const after = bows("'dark', 'pale', 'light'", '');
  const story = await Story.of('postgres', before);
  await story.run("insert into bows (tone) values ('light'), ('dark')", "select nextval('bow_numbers')");
  await story.apply(after);
  await story.run("insert into bows (tone) values ('pale')");
  expect(await story.rows('select tone from bows order by tone')).toEqual(['dark', 'pale', 'light']);
  expect(await story.rows('select last_value from bow_numbers')).toEqual(['1']);
  await story.run("delete from bows where tone = 'pale'");
  await story.undo();
  expect(await story.rows('select tone from bows order by tone')).toEqual(['light', 'dark']);
  expect(await story.rows("select data_type from pg_sequences where sequencename = 'bow_numbers'")).toEqual(['integer']);
});

describe('a type of a database of its own that lists values', () => {
  /** Bows whose tone is of a type that the database lists the values of; without any, a text. */
  const bows = (values: readonly string[], { optional = false, goes = false } = {}) => {
    const kept = values.map((value) => `''${value}''`).join(', ');
    const choice = `choice Shade\n${values.map((value) => `  '${value}'\n`).join('')}\n`;
    const type = values.length === 0 ? 'text(20)' : 'Shade';
    const tone = `  tone  ${type}${optional ? ' optional' : ''}${values.length === 0 ? '' : " stored as 'shade'"}\n`;
    return `tree 'Bows'\n  dialect postgres\n${values.length === 0 ? '' : `  kept 'create type shade as enum (${kept})'\n`}\n${values.length === 0 ? '' : choice}entity Bow in bows\n  id    integer key\n${goes ? '' : tone}\nsample Bow 0\n`;
  };
  const TONES = 'select tone from bows order by id';

  test('those that rows have and it lists no more are asked about, and mapped, and come back', async () => {
    const story = await Story.of('postgres', bows(['light', 'dark', 'dull']));
    await story.run("insert into bows (id, tone) values (1, 'light'), (2, 'dark'), (3, 'dull'), (4, 'dull')");
    const after = bows(['dark', 'pale']);
    const { questions } = await story.plan(after);
    expect(questions).toMatchObject([
      {
        kind: 'unfit',
        columns: ['tone'],
        rows: 3,
        examples: [
          { shown: 'dull', rows: 2 },
          { shown: 'light', rows: 1 },
        ],
      },
    ]);
    const plan = await story.apply(after, "map bows.tone 'dull' to 'dark'\nmap bows.tone 'light' to 'pale'");
    expect(plan.changes.map(({ id, verdict, lost }) => [id, verdict, lost])).toContainEqual([
      'column bows.tone',
      'loses data',
      3,
    ]);
    expect(await story.rows(TONES)).toEqual(['pale', 'dark', 'dark', 'dark']);
    await story.run("update bows set tone = 'pale' where id = 4", "insert into bows (id, tone) values (5, 'dark')");
    const back = await story.undone();
    expect(back.plan.questions).toMatchObject([{ kind: 'unfit', rows: 1, examples: [{ shown: 'pale', rows: 1 }] }]);
    await story.undo("map bows.tone 'pale' to 'light'");
    expect(await story.rows(TONES)).toEqual(['light', 'dark', 'dull', 'light', 'dark']);
    expect((await story.plan(bows(['light', 'dark', 'dull']))).changes).toEqual([]);
    await story.database.remove();
  });

  test('a text becomes one, and what it does not list is asked about', async () => {
    const story = await Story.of('postgres', bows([], { optional: true }));
    await story.run("insert into bows (id, tone) values (1, 'light'), (2, 'odd'), (3, null)");
    const after = bows(['light', 'dark'], { optional: true });
    expect((await story.plan(after)).questions).toMatchObject([
      { kind: 'unfit', rows: 1, examples: [{ shown: 'odd', rows: 1 }] },
    ]);
    await story.apply(after, 'empty bows.tone');
    expect(await story.rows(TONES)).toEqual(['light', '-', '-']);
    await story.undo();
    expect(await story.rows(TONES)).toEqual(['light', 'odd', '-']);
    await story.database.remove();
  });

  test('rows with a value that it lists no more are left out, and come back', async () => {
    const story = await Story.of('postgres', bows(['light', 'dark']));
    await story.run("insert into bows (id, tone) values (1, 'light'), (2, 'dark')");
    await story.apply(bows(['dark']), 'leave out bows.tone');
    expect(await story.rows(TONES)).toEqual(['dark']);
    await story.undo();
    expect(await story.rows(TONES)).toEqual(['light', 'dark']);
    await story.database.remove();
  });

  test('it goes with the column that is of it, and both come back', async () => {
    const story = await Story.of('postgres', bows(['light', 'dark'], { optional: true }));
    await story.run("insert into bows (id, tone) values (1, 'light'), (2, null)");
    await story.apply(bows([], { goes: true }));
    expect(await story.rows("select count(*) from pg_type where typname = 'shade'")).toEqual(['0']);
    await story.undo();
    expect(await story.rows(TONES)).toEqual(['light', '-']);
    await story.database.remove();
  });
});

describe.each(ENGINES)('on %s', (name) => {
  test('an unchanged design has nothing to do, and a role that was renamed with its column written out neither', async () => {
    const story = await Story.of(name, PLAYERS);
    expect((await story.plan(PLAYERS)).changes).toEqual([]);
    const renamed = changed(
      '  Loan knows one Player as borrower',
      '  Loan knows one Player as lender\n  stored in Loan.borrower_id',
    );
    expect((await story.plan(renamed)).changes).toEqual([]);
    await story.database.remove();
  });

  test('a role that was renamed by hand asks whether its column is the same; answered, the keys stay', async () => {
    const story = await Story.of(name, PLAYERS);
    const renamed = changed('  Loan knows one Player as borrower', '  Loan knows one Player as lender');
    const { questions, operations } = await story.plan(renamed);
    expect(questions.map(({ kind, columns }) => [kind, columns])).toEqual([['former name', ['lender_id']]]);
    expect(questions[0]?.ways.map(({ line }) => line)).toEqual([
      'column loans.lender_id was borrower_id',
      'column loans.lender_id is new',
    ]);
    expect(operations).toEqual([]);
    const before = await story.rows('select id, borrower_id from loans order by id');
    await story.apply(renamed, 'column loans.lender_id was borrower_id');
    expect(await story.rows('select id, lender_id from loans order by id')).toEqual(before);
    await story.database.remove();
  });

  test('a length that was forgotten and is given asks for the texts that are longer; cut, they are kept aside and come back', async () => {
    const story = await Story.of(name, PLAYERS);
    const shorter = changed('  name   text(60)', '  name   text(3)');
    const { questions } = await story.plan(shorter);
    expect(questions[0]).toMatchObject({ kind: 'unfit', rows: 2, examples: [{ rows: 1 }, { rows: 1 }] });
    const plan = await story.apply(shorter, 'cut players.name');
    expect(plan.changes).toMatchObject([{ id: 'column players.name', verdict: 'loses data', lost: 2 }]);
    expect(await story.rows('select name from players order by id')).toEqual(['Ine', 'Oma', 'Teo']);
    await story.run("update players set name = 'Oto' where name = 'Oma'");
    await story.undo();
    expect(await story.rows('select name from players order by id')).toEqual(['Ines', 'Oto', 'Teo']);
    expect((await story.plan(PLAYERS)).changes).toEqual([]);
    await story.database.remove();
  });

  test('what a person has let go of does not come back, and nothing is left of it', async () => {
    const story = await Story.of(name, PLAYERS);
    await story.apply(changed('  name   text(60)', '  name   text(3)'), 'cut players.name');
    const { engine } = story.database;
    expect(await letGo(engine, 7)).toMatchObject({ ok: false, problem: { code: 'missing' } });
    expect(await letGo(engine, 1)).toEqual({ ok: true, value: ['family_tree_kept_1_1'] });
    expect(await letGo(engine, 1)).toEqual({ ok: true, value: [] });
    const read = await engine.introspect();
    const names = read.ok ? read.value.schema.tables.map((table) => table.name.name) : [];
    expect(names.filter((one) => one.startsWith('family_tree_kept'))).toEqual([]);
    await story.undo();
    expect(await story.rows('select name from players order by id')).toEqual(['Ine', 'Oma', 'Teo']);
    await story.database.remove();
  });

  test('a required column over rows asks what to put there, by an expression over the row as it was', async () => {
    const story = await Story.of(name, PLAYERS);
    const required = changed('  town   text(40) optional', '  town   text(40)\n  shown_name text(200)\n  joined_on date');
    const { questions } = await story.plan(required);
    expect(questions.map(({ kind, columns, rows }) => [kind, columns[0], rows])).toEqual([
      ['empty', 'town', 1],
      ['empty', 'shown_name', 3],
      ['empty', 'joined_on', 3],
    ]);
    await story.apply(
      required,
      "value players.town = 'Quay'\nvalue players.shown_name = name || ' of ' || coalesce(town, 'nowhere')\nvalue players.joined_on = today -- all at once",
    );
    expect(await story.rows('select name, town, shown_name from players order by id')).toEqual([
      'Ines | Ferren | Ines of Ferren',
      'Omar | Quay | Omar of nowhere',
      'Teo | Marsh | Teo of Marsh',
    ]);
    await story.database.remove();
  });

  test('rows without a value can be left out, and what points at them is asked about', async () => {
    const story = await Story.of(name, PLAYERS);
    const required = changed('  town   text(40) optional', '  town   text(40)');
    const { questions } = await story.plan(required, 'leave out players.town');
    expect(questions.map(({ kind, sentence }) => [kind, sentence])).toEqual([
      ['pointing at nothing', '1 row of loans point by borrower_id at a row of players that is not there.'],
    ]);
    await story.apply(required, 'leave out players.town\nleave out loans.borrower_id');
    expect(await story.rows('select count(*) from loans')).toEqual(['2']);
    await story.undo();
    expect(
      await story.rows('select l.lent_on, p.name from loans l join players p on p.id = l.borrower_id order by 2'),
    ).toHaveLength(3);
    await story.database.remove();
  });

  test('a unique over doubles asks which stays; the children of the others are pointed at it, and go back', async () => {
    const story = await Story.of(name, PLAYERS);
    const unique = changed('  email  text(80)', '  email  text(80) unique');
    const { questions } = await story.plan(unique);
    expect(questions).toMatchObject([{ kind: 'doubles', columns: ['email'], rows: 2 }]);
    const kept = await story.apply(unique, 'keep players (email) by id desc');
    expect(kept.changes.map(({ id, verdict, lost }) => [id, verdict, lost])).toEqual([
      ['unique players.email', 'loses data', 1],
      ['rows loans', 'safe', 0],
    ]);
    const loans = 'select p.name from loans l join players p on p.id = l.borrower_id order by l.id';
    expect(await story.rows(loans)).toEqual(['Teo', 'Teo', 'Omar']);
    await story.undo();
    expect(await story.rows(loans)).toEqual(['Ines', 'Teo', 'Omar']);
    await story.database.remove();
  });

  test('of doubles each is picked by itself, once it was looked at; what nobody picked stays a question', async () => {
    const story = await Story.of(
      name,
      PLAYERS.replace(
        'sample Loan',
        "  ada: name 'Ada', email 'omar@example.org', town null, branch Branch(north)\n\nsample Loan",
      ),
    );
    const unique = changed('  email  text(80)', '  email  text(80) unique');
    const look = async (answers: string) => (await story.plan(unique, answers)).questions.flatMap((question) => question.look);
    const seen = await look('');
    const told = seen.map((rows) => rows.map(({ values }) => values.find(({ column }) => column === 'name')?.shown));
    expect(told).toEqual([
      ['Ines', 'Teo'],
      ['Omar', 'Ada'],
    ]);
    const [[ines, teo] = [], [, ada] = []] = seen.map((rows) => rows.map(({ keep }) => keep ?? ''));
    expect(ines).toMatch(/^keep players \(email\) rows \d+$/);
    expect(await look('keep players (email) rows 4711')).toEqual(seen);
    expect(await look(`${teo}\n${ines}\n${ada}`)).toEqual([seen[0]]);
    expect((await story.plan(unique, 'keep players (email) rows (1, 2)')).faults).toEqual([
      'keep players.email: the key of a row of players has 1 part, and “1, 2” is none.',
    ]);
    await story.apply(unique, `${teo}\nkeep players (email) by name`);
    expect(await story.rows('select name from players order by id')).toEqual(['Teo', 'Ada']);
    await story.undo();
    expect(await story.rows('select name from players order by id')).toEqual(['Ines', 'Omar', 'Teo', 'Ada']);
    await story.apply(unique, `${teo}\n${ada}`);
    expect(await story.rows('select name from players order by id')).toEqual(['Teo', 'Ada']);
    const loans = 'select p.name from loans l join players p on p.id = l.borrower_id order by l.id';
    expect(await story.rows(loans)).toEqual(['Teo', 'Teo', 'Ada']);
    await story.database.remove();
  });

  test('a column of JSON becomes one of texts, or of choices, and JSON again, as it was', async () => {
    const json = `tree 'Cases'

choice Sort
  'small'
  'large'

entity Case in cases
  id     integer key
  about  json optional
  label  json optional

sample Case
  one: about '{"lined": true}', label '"small"'
  two: about '"large"', label null
`;
    const story = await Story.of(name, json);
    const read = 'select about, label from cases order by id';
    const before = await story.rows(read);
    const texts = json.replace('about  json', 'about  text').replace('label  json', 'label  Sort');
    const other = texts.replace('{"lined": true}', 'lined').replace(`'"small"'`, "'small'");
    await story.apply(other, `map cases.label '"small"' to 'small'`);
    expect(await story.rows('select label from cases order by id')).toEqual(['small', '-']);
    await story.undo();
    expect(await story.rows(read)).toEqual(before);
    await story.database.remove();
  });

  test('a table and a column are renamed at once, by the text alone', async () => {
    const story = await Story.of(name, PLAYERS);
    const renamed = changed('entity Player in players', 'entity Player in members was players').replace(
      '  town   text(40) optional',
      '  home   text(40) optional was town',
    );
    const plan = await story.apply(renamed);
    expect(plan.changes.filter(({ kind }) => kind !== 'changed')).toEqual([]);
    expect(await story.rows('select name, home from members order by id')).toEqual(['Ines | Ferren', 'Omar | -', 'Teo | Marsh']);
    expect((await story.plan(renamed)).changes).toEqual([]);
    await story.database.remove();
  });

  test("a key's type changes with all that points at it", async () => {
    const story = await Story.of(name, PLAYERS);
    const bigger = changed('entity Player in players\n  id     integer key', 'entity Player in players\n  id     bigint key');
    const loans = 'select p.name from loans l join players p on p.id = l.borrower_id order by l.id';
    await story.apply(bigger);
    expect(await story.rows(loans)).toEqual(['Ines', 'Teo', 'Omar']);
    await story.undo();
    expect(await story.rows(loans)).toEqual(['Ines', 'Teo', 'Omar']);
    await story.database.remove();
  });

  test('a text column becomes a relation: what it names is matched, what names nothing is made, and all of it goes back', async () => {
    const story = await Story.of(
      name,
      PLAYERS.replace('  id    integer key\n  name  text(40)\n', '  id    integer key\n  name  text(40) unique\n').replace(
        "town 'Marsh'",
        "town 'North Quay'",
      ),
    );
    const towns = changed('  id    integer key\n  name  text(40)\n', '  id    integer key\n  name  text(40) unique\n');
    const related = `${towns.replace('  town   text(40) optional\n', '')}
relation living
  Player knows at most one Branch as living_at
  Branch knows many Player as dwellers
`;
    const by = 'column players.living_at_id is new\nmatch players.living_at_id by town = name';
    const { questions } = await story.plan(related, by);
    expect(questions).toMatchObject([{ kind: 'unmatched', rows: 1, examples: [{ shown: 'Ferren', rows: 1 }] }]);
    const plan = await story.apply(related, `${by}, make the others`);
    expect(plan.changes.map(({ id }) => id)).toContain('rows branches');
    const lived = 'select p.name, b.name from players p left join branches b on b.id = p.living_at_id order by p.id';
    expect(await story.rows(lived)).toEqual(['Ines | Ferren', 'Omar | -', 'Teo | North Quay']);
    expect(await story.rows('select name from branches order by id')).toEqual(['North Quay', 'South Gate', 'Ferren']);
    await story.undo();
    expect(await story.rows('select name, town from players order by id')).toEqual([
      'Ines | Ferren',
      'Omar | -',
      'Teo | North Quay',
    ]);
    expect(await story.rows('select name from branches order by id')).toEqual(['North Quay', 'South Gate']);
    await story.database.remove();
  });

  test('what points at rows that become one goes with them where its own value is left out', async () => {
    const story = await Story.of(name, PLAYERS);
    // Which loans go rests on which players become one: of Teo, who is Ines, and of Omar, who is left out.
    await story.run("update players set email = null where name = 'Omar'".replace('null', "'omar'"));
    const wanted = changed('email  text(80)', 'email  text(80) unique').replace('town   text(40) optional', 'town   text(40)');
    await story.apply(wanted, 'keep players (email) by id\nleave out players.town\nleave out loans.borrower_id');
    expect(await story.rows('select name from players order by name')).toEqual(['Ines']);
    expect(await story.rows('select count(*) from loans')).toEqual(['2']);
    await story.undo();
    expect(
      await story.rows('select lent_on, name from loans join players on players.id = borrower_id order by lent_on'),
    ).toHaveLength(3);
  });

  test('rows that were left out for the sake of others come back, though nothing else of their table was changed', async () => {
    const story = await Story.of(name, PLAYERS);
    await story.apply(
      changed('town   text(40) optional', 'town   text(40)'),
      'leave out players.town\nleave out loans.borrower_id',
    );
    expect(await story.rows('select count(*) from loans')).toEqual(['2']);
    await story.undo();
    expect(
      await story.rows('select lent_on, name from loans join players on players.id = borrower_id order by lent_on'),
    ).toHaveLength(3);
  });

  test('a text that names several rows is asked about, until those are one', async () => {
    const story = await Story.of(
      name,
      PLAYERS.replace("south: name 'South Gate'", "south: name 'North Quay'")
        .replace("town 'Ferren'", "town 'North Quay'")
        .replace("town 'Marsh'", 'town null'),
    );
    const related = `${changed('  town   text(40) optional\n', '')}
relation living
  Player knows at most one Branch as living_at
  Branch knows many Player as dwellers
`;
    const by = 'column players.living_at_id is new\nmatch players.living_at_id by town = name';
    expect((await story.plan(related, by)).questions).toMatchObject([
      { kind: 'ambiguous', rows: 1, examples: [{ shown: 'North Quay' }] },
    ]);
    await story.database.remove();
  });

  test('keys that point at nothing have their rows made, where a key is all that a row needs', async () => {
    const text = PLAYERS.replace(
      'relation borrowing\n  Loan knows one Player as borrower\n  Player knows many Loan as loans\n  on delete cascade\n\n',
      '',
    )
      .replace('  lent_on date\n', '  lent_on date\n  branch_id integer\n')
      .replaceAll(/, borrower Player\((\w+)\)/g, ', branch_id 77')
      .replace('  name  text(40)\n', '  name  text(40) optional\n');
    const story = await Story.of(name, text);
    const related = `${text.slice(0, text.indexOf('sample Branch'))}
relation kept_at
  Loan knows one Branch as branch
  Branch knows many Loan as loans
  stored in Loan.branch_id
`;
    expect((await story.plan(related)).questions).toMatchObject([{ kind: 'pointing at nothing', rows: 3 }]);
    await story.apply(related, 'make loans.branch_id');
    expect(await story.rows('select b.id, count(*) from loans l join branches b on b.id = l.branch_id group by b.id')).toEqual([
      '77 | 3',
    ]);
    await story.undo();
    expect(await story.rows('select id from branches order by id')).toEqual(['1', '2']);
    await story.database.remove();
  });

  test('columns move to a table of their own, with their values', async () => {
    const story = await Story.of(name, PLAYERS);
    const moved = `${changed('  email  text(80)\n  town   text(40) optional\n', '')}
entity Contact in contacts
  id     integer key
  email  text(80) was Player.email
  town   text(40) optional was Player.town

relation contact_of
  Contact knows one Player as player
  Player knows at most one Contact as contact
`;
    await story.apply(moved);
    expect(
      await story.rows('select p.name, c.email, c.town from contacts c join players p on p.id = c.player_id order by p.id'),
    ).toEqual(['Ines | ines@example.org | Ferren', 'Omar | omar@example.org | -', 'Teo | ines@example.org | Marsh']);
    await story.undo();
    expect(await story.rows('select name, email, town from players order by id')).toEqual([
      'Ines | ines@example.org | Ferren',
      'Omar | omar@example.org | -',
      'Teo | ines@example.org | Marsh',
    ]);
    await story.database.remove();
  });

  test('a change is taken back after rows were written: it asks what to put where they have no value', async () => {
    const story = await Story.of(name, PLAYERS);
    const without = changed('  email  text(80)\n', '');
    await story.apply(without);
    await story.run("insert into players (id, name, town, branch_id) values (900, 'Wilma', 'Dell', 1)");
    const asked = await story.undo();
    expect(asked.questions).toMatchObject([{ kind: 'empty', columns: ['email'], rows: 1 }]);
    await story.undo("value players.email = 'nobody@example.org'");
    expect(await story.rows('select name, email from players order by id')).toEqual([
      'Ines | ines@example.org',
      'Omar | omar@example.org',
      'Teo | ines@example.org',
      'Wilma | nobody@example.org',
    ]);
    await story.database.remove();
  });

  test("a relation to a table of somebody else's touches nothing but its own table", async () => {
    const story = await Story.of(name, PLAYERS);
    const others = Array.from({ length: 10 }, (_, at) => `other_${at}`);
    await story.run(
      ...others.map((other) => `create table ${other} (id integer primary key, name text, town varchar(40))`),
      ...others.map((other) => `insert into ${other} values (1, '${other}', 'Ferren')`),
    );
    const related = `${changed('  town   text(40) optional', '  town   text(40) optional')}
entity Teacher in other_3 given
  id    integer key
  name  text

relation teaching
  Player knows at most one Teacher as teacher
`;
    const plan = await story.apply(related);
    // Where no transaction holds a plan, others are kept from writing meanwhile, and keys are looked at before they are put up.
    const changing = plan.operations.filter(({ kind, sql }) => kind !== 'check' && !/trigger.* family_tree_held_/.test(sql));
    expect(Array.from(new Set(changing.flatMap(({ table }) => table ?? [])))).toEqual(['players']);
    expect(plan.operations.filter(({ sql }) => others.some((other) => other !== 'other_3' && sql.includes(other)))).toEqual([]);
    expect(changing.filter(({ sql }) => /(?:table|into|update|from) other_3/i.test(sql))).toEqual([]);
    await story.database.remove();
  });

  test('steps by hand stand before, after and in place of a statement, and what takes them back is run with the rest', async () => {
    const story = await Story.of(name, PLAYERS);
    await story.run('create table noted (id int)');
    const wanted = changed('town   text(40) optional', 'town   text(40) optional\n  place  text(40) optional');
    const { operations } = await story.plan(wanted);
    const adding = operations.find(
      ({ sql, kind }) => kind === 'define' && /^(?:alter|create(?: or replace)?) table/i.test(sql) && /\bplace\b/.test(sql),
    );
    if (adding === undefined) throw new Error('no statement adds the column');
    const byHand = (where: string, sql: string, back: string) =>
      `by hand ${where}, on ${name}\n${sql.replaceAll(/^/gm, '    ')}\n${back}\n`;
    const answers = [
      byHand('before plan', 'insert into noted values (1); -- first of all', 'no way back'),
      byHand(`instead of players: ${adding.what}`, `-- written anew\n${adding.sql}`, 'no way back'),
      byHand(
        'after players',
        'update players set place = upper(town)\nwhere town is not null',
        'back\n  insert into noted values (2)',
      ),
      byHand('before loans', 'delete from loans', 'no way back'),
    ].join('\n');
    const plan = await story.apply(wanted, answers);
    expect(plan.byHand.map(({ becomes }) => becomes)).toEqual(['placed', 'placed', 'placed', 'no place']);
    expect(plan.operations.filter(({ byHand: isByHand }) => isByHand)).toHaveLength(3);
    expect(await story.rows('select id from noted')).toEqual(['1']);
    expect(await story.rows('select name, place from players order by name')).toEqual([
      'Ines | FERREN',
      'Omar | -',
      'Teo | MARSH',
    ]);
    expect((await story.plan(wanted, answers)).operations).toEqual([]);
    // Of what was done by hand nothing is done again, whatever the next plan is.
    const more = wanted.replace('name   text(60)', 'name   text(70)');
    expect((await story.plan(more, answers)).byHand.map(({ becomes }) => becomes)).toEqual(['done', 'done', 'done', 'no place']);
    const planned = await story.undone(answers);
    expect(byHandWords(planned).map((words) => words.replace(/:.*/, ''))).toEqual([
      'What was done by hand before “plan” has no way back, and stays',
      'What was done by hand instead of “players',
    ]);
    await story.undo(answers);
    expect(await story.rows('select id from noted order by id')).toEqual(['1', '2']);
    expect((await story.plan(PLAYERS)).changes).toEqual([]);
  });

  test('a step by hand that leaves the tables otherwise than the text has it is carried out nowhere', async () => {
    const story = await Story.of(name, PLAYERS);
    const wanted = changed('town   text(40) optional', 'town   text(40) optional\n  place  text(40) optional');
    const byHand = `by hand after players, on ${name}\n  alter table players drop column place\nback\n  alter table players add place varchar(40)\n`;
    const applied = await story.applied(wanted, byHand);
    expect(applied.kind).toBe('unlike');
  });

  test('a plan is not carried out on a database that has changed since', async () => {
    const story = await Story.of(name, PLAYERS);
    const text = changed('  town   text(40) optional', '  town   text(50) optional');
    const planned = await story.planned(text);
    await story.run('alter table players add column nick varchar(20)');
    const done = await story.database.engine.apply(applying(planned, { text, name: 'late', now: NOW, schemas: null }));
    expect(done).toMatchObject({ ok: true, value: { kind: 'moved', differs: [expect.stringContaining('players.nick')] } });
    expect((await story.plan(PLAYERS)).changes).toMatchObject([{ id: 'gone column players.nick' }]);
    await story.database.remove();
  });
});
