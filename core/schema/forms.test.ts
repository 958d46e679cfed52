import { describe, expect, test } from 'vitest';
import { readDesign } from '../design/index.js';
import { sqliteDialect } from '../dialects/index.js';
import type { DialectName } from '../notation/index.js';
import { type Schema, schemaOf } from './index.js';

const DIALECTS = ['sqlite', 'postgres', 'mariadb'] as const;

function schema(text: string, dialect: DialectName = 'sqlite'): Schema {
  const design = readDesign(text, dialect);
  expect(design.findings.filter(({ weight }) => weight === 'error')).toEqual([]);
  return design.schema;
}

/** Of each table its columns, those that may be empty with a `?`. */
function columns({ tables }: Schema): Record<string, string[]> {
  return Object.fromEntries(
    tables.map((table) => [
      table.name.name,
      table.columns.map(({ name, notNull }) => `${name}${notNull || table.primaryKey.columns.includes(name) ? '' : '?'}`),
    ]),
  );
}

function checks({ tables }: Schema, name: string): Record<string, string> {
  const table = tables.find((candidate) => candidate.name.name === name);
  return Object.fromEntries((table?.checks ?? []).map((check) => [check.name, check.expression]));
}

/** Of each table the triggers on it: when, of what, and how they are called. */
function triggers({ tables }: Schema): Record<string, string[]> {
  return Object.fromEntries(
    tables.flatMap((table) => {
      const told = table.triggers.flatMap((one) =>
        one.kind === 'made' ? [`${one.trigger.name} ${one.trigger.timing} ${one.trigger.event}`] : [],
      );
      return told.length === 0 ? [] : [[table.name.name, told]];
    }),
  );
}

const bodyOf = ({ tables }: Schema, trigger: string) =>
  tables
    .flatMap((table) => table.triggers)
    .flatMap((one) => (one.kind === 'made' && one.trigger.name.startsWith(trigger) ? sqliteDialect.trigger(one.trigger) : []));

describe('kinds', () => {
  const fees = (storage: string, key = 'integer') => `entity Fee abstract
  id      ${key} key
  amount  decimal(6, 2)
  ${storage}
  check due: amount > 0.00

entity LateFee is Fee marked 'late'
  days   integer
  check late: days > 0

entity HarmFee is Fee
  part   text(20) unique
  found  date optional
`;

  test('in a single table stand in that of the base; what a kind must have may be empty in the rows of others', () => {
    const made = schema(fees('kinds in single table by sort'));
    expect(columns(made)).toEqual({ fees: ['id', 'amount', 'sort', 'days?', 'part?', 'found?'] });
    expect(checks(made, 'fees')).toMatchObject({
      fees_sort_mark: "sort in ('late', 'harm_fee')",
      fees_due: 'amount > 0.00',
      fees_days_given: "sort <> 'late' or days is not null",
      fees_late: "sort <> 'late' or (days > 0)",
      fees_part_given: "sort <> 'harm_fee' or part is not null",
    });
    expect(Object.keys(checks(made, 'fees'))).not.toContain('fees_found_given');
  });

  test('in joined tables have each its own, its key a key to the base and gone with it', () => {
    const made = schema(fees('kinds in joined tables by sort'));
    expect(columns(made)).toEqual({
      fees: ['id', 'amount', 'sort'],
      late_fees: ['id', 'days'],
      harm_fees: ['id', 'part', 'found?'],
    });
    expect(made.tables[1]?.foreignKeys).toMatchObject([
      { columns: ['id'], table: 'fees', references: ['id'], onDelete: 'cascade' },
    ]);
    expect(checks(made, 'late_fees')).toMatchObject({ late_fees_late: 'days > 0' });
  });

  test('in separate tables have all columns each, and the base none; a rule of the base holds in each', () => {
    const made = schema(fees('kinds in separate tables', 'uuid'));
    expect(columns(made)).toEqual({ late_fees: ['id', 'amount', 'days'], harm_fees: ['id', 'amount', 'part', 'found?'] });
    expect(checks(made, 'late_fees')).toMatchObject({ late_fees_due: 'amount > 0.00', late_fees_late: 'days > 0' });
    expect(checks(made, 'harm_fees')).toMatchObject({ harm_fees_due: 'amount > 0.00' });
  });

  test('in a column of JSON add that column alone', () => {
    const text = fees('kinds in json details by sort').replace(' unique', '').replace('  check late: days > 0\n', '');
    expect(columns(schema(text))).toEqual({ fees: ['id', 'amount', 'sort', 'details?'] });
  });

  test('of kinds: a rule of one in between holds for all below it', () => {
    const made = schema(`${fees('kinds in single table by sort')}
entity WeekFee is LateFee
  weeks  integer
`);
    expect(checks(made, 'fees')).toMatchObject({
      fees_sort_mark: "sort in ('late', 'week_fee', 'harm_fee')",
      fees_days_given: "sort not in ('late', 'week_fee') or days is not null",
      fees_weeks_given: "sort <> 'week_fee' or weeks is not null",
    });
  });

  test('a key to a kind is a plain key to the base’s table, and triggers see to the kind', () => {
    const made = schema(`${fees('kinds in single table by sort')}
entity Reminder
  id  integer key

relation reminding
  Reminder knows one LateFee as fee
  LateFee knows many Reminder as reminders
`);
    expect(made.tables.find(({ name }) => name.name === 'reminders')?.foreignKeys).toMatchObject([
      { columns: ['fee_id'], table: 'fees', references: ['id'] },
    ]);
    expect(Object.keys(triggers(made)).sort()).toEqual(['fees', 'reminders']);
    expect(bodyOf(made, 'reminders_').join()).toContain("sort = 'late'");
  });
});

const THINGS = `entity Player
  id  integer key

entity Ensemble
  id  uuid key

entity Remark
  id  integer key

relation about
`;

const SENTENCES = `  Remark knows one Player | Ensemble as subject
  each knows many Remark as remarks
`;

describe('a relation to several entities', () => {
  const named = `  stored in Remark.subject_type with Remark.subject_id\n`;

  test.each(DIALECTS)('by type and id has two columns, a check of the type, and triggers at all ends on %s', (dialect) => {
    const made = schema(`${THINGS}${SENTENCES}${named}`, dialect);
    expect(columns(made).remarks).toEqual(['id', 'subject_type', 'subject_id']);
    expect(Object.values(checks(made, 'remarks')).join()).toContain("subject_type in ('player', 'ensemble')");
    expect(made.tables.find(({ name }) => name.name === 'remarks')?.foreignKeys).toEqual([]);
    expect(triggers(made)).toEqual({
      players: ['players_remarks_subject_delete before delete', 'players_remarks_subject_update before update'],
      ensembles: ['ensembles_remarks_subject_delete before delete', 'ensembles_remarks_subject_update before update'],
      remarks: ['remarks_subject_there_insert before insert', 'remarks_subject_there_update before update'],
    });
  });

  test.each([
    ['restrict', 'raise(abort'],
    ['cascade', "delete from remarks where subject_type = 'player'"],
  ])('on delete %s is what its trigger does', (rule, does) => {
    const made = schema(`${THINGS}${SENTENCES}${named}  on delete ${rule}\n`);
    expect(bodyOf(made, 'players_remarks_subject_delete').join()).toContain(does);
  });

  test('on delete set null empties both columns together', () => {
    const optional = SENTENCES.replace('knows one', 'knows at most one');
    const made = schema(`${THINGS}${optional}${named}  on delete set null\n`);
    expect(columns(made).remarks).toEqual(['id', 'subject_type?', 'subject_id?']);
    expect(bodyOf(made, 'players_remarks_subject_delete').join()).toMatch(/set subject_type = null, subject_id = null/);
    expect(Object.values(checks(made, 'remarks'))).toContain(
      '(subject_type is null and subject_id is null) or (subject_type is not null and subject_id is not null)',
    );
  });

  test('without triggers has none', () => {
    expect(triggers(schema(`${THINGS}${SENTENCES}${named.trimEnd()} without triggers\n`))).toEqual({});
  });

  test('marks of one’s own are what is stored and what the triggers ask for', () => {
    const made = schema(`${THINGS}${SENTENCES}${named}    Player marked 'P'\n`);
    expect(Object.values(checks(made, 'remarks')).join()).toContain("subject_type in ('P', 'ensemble')");
    expect(bodyOf(made, 'players_remarks_subject_delete').join()).toContain("subject_type = 'P'");
  });

  test.each(DIALECTS)('with a column for each has foreign keys, each column indexed, and exactly one given on %s', (dialect) => {
    const made = schema(`${THINGS}${SENTENCES}  stored in one of Remark.player_id, Remark.ensemble_id\n`, dialect);
    const remarks = made.tables.find(({ name }) => name.name === 'remarks');
    expect(columns(made).remarks).toEqual(['id', 'player_id?', 'ensemble_id?']);
    expect(remarks?.foreignKeys.map(({ columns: held, table }) => `${held.join()} ${table}`)).toEqual([
      'player_id players',
      'ensemble_id ensembles',
    ]);
    expect(remarks?.indexes.map((index) => index.columns)).toEqual([['player_id'], ['ensemble_id']]);
    expect(Object.keys(checks(made, 'remarks'))).toContain('remarks_subject_one');
    expect(triggers(made)).toEqual({});
  });

  test('over pairs has a table with a key, a type and an id, each pair once', () => {
    const made = schema(`${THINGS}  Remark knows many Player | Ensemble as subjects
  each knows many Remark as remarks
  stored in table remarked (remark_id, thing_type with thing_id)
`);
    const remarked = made.tables.find(({ name }) => name.name === 'remarked');
    expect(columns(made).remarked).toEqual(['remark_id', 'thing_type', 'thing_id']);
    expect(remarked?.primaryKey.columns).toEqual(['remark_id', 'thing_type', 'thing_id']);
    expect(remarked?.foreignKeys.map(({ table }) => table)).toEqual(['remarks']);
    expect(bodyOf(made, 'players_remarked').join()).toContain("delete from remarked where thing_type = 'player'");
  });
});

describe('what is given', () => {
  const text = `entity Policy in insurer_policies given
  number  text(12) key

entity Instrument
  id  integer key

relation insuring
  Instrument knows at most one Policy as policy
  Policy knows many Instrument as instruments
`;

  test('is not made, and no foreign key of ours is put on it; ours may point at it', () => {
    const design = readDesign(text);
    expect(design.schema.tables.map(({ name }) => name.name)).toEqual(['instruments']);
    expect(design.schema.tables[0]?.foreignKeys).toMatchObject([{ columns: ['policy_id'], table: 'insurer_policies' }]);
  });

  test('has a stand-in, for a database of its own', () => {
    const { model, dialect } = readDesign(text);
    const made = schemaOf(model, dialect, { standIns: true }).schema.tables;
    expect(made.map(({ name }) => name.name)).toEqual(['insurer_policies', 'instruments']);
  });
});

describe('keys that need each other', () => {
  const loop = `entity Player
  id  integer key

entity Ensemble
  id  integer key

relation seat
  Player knows one Ensemble as ensemble
  Ensemble knows many Player as players

relation leader
  Ensemble knows one Player as leader
  Player knows at most one Ensemble as leads
`;

  test('are looked at when a transaction ends, where the engine can', () => {
    const deferred = schema(loop).tables.flatMap((table) => table.foreignKeys.map((key) => key.deferred));
    expect(deferred).toContain(true);
    expect(schema(loop, 'postgres').tables.flatMap((table) => table.foreignKeys.map((key) => key.deferred))).toEqual(deferred);
  });

  test('are an error on an engine that looks at once, with the way out', () => {
    const errors = readDesign(loop, 'mariadb').findings.filter(({ weight }) => weight === 'error');
    expect(errors.map(({ code }) => code)).toEqual(['required-loop']);
    expect(errors[0]?.fixes?.length).toBeGreaterThan(0);
  });
});
