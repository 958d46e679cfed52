import { describe, expect, test } from 'vitest';
import { readDesign } from '../design/index.js';
import type { DialectName } from '../notation/index.js';

const BASE = `entity Branch
  id  integer key

entity Player
  id  integer key

entity Hall
  id  integer key

entity Remark
  id  integer key

relation subject
  Remark knows one Player | Hall as subject
  each knows many Remark as remarks
  on delete cascade
`;

/** Of each table the foreign keys, as `columns → table: rule`. */
function keysOf(text: string, dialect: DialectName): Record<string, string[]> {
  const { tables } = readDesign(text, dialect).schema;
  return Object.fromEntries(
    tables
      .filter(({ foreignKeys }) => foreignKeys.length > 0)
      .map(({ name, foreignKeys }) => [
        name.name,
        foreignKeys.map((key) => `${key.columns.join()} → ${key.table}: ${key.onDelete}, ${key.onUpdate}`),
      ]),
  );
}

/** The names of triggers on a table, and what they delete. */
function deletesOn(text: string, dialect: DialectName, table: string): string[] {
  const found = readDesign(text, dialect).schema.tables.find(({ name }) => name.name === table);
  const actions = (found?.triggers ?? []).flatMap((one) => (one.kind === 'made' ? one.trigger.actions : []));
  return actions.flatMap((one) => (one.kind === 'run' && one.change.kind === 'delete' ? [one.change.from.name] : []));
}

const unkept = (text: string, dialect: DialectName) =>
  readDesign(text, dialect).unkept.map(({ event, table, parent }) => `${event} ${parent} → ${table}`);

const HOME = `${BASE}
relation home
  Player knows one Branch as branch
  Branch knows many Player as players
  on delete cascade
`;

describe('a cascade into a table that triggers look at', () => {
  test('is left to the foreign key where triggers fire on what it deletes', () => {
    for (const dialect of ['sqlite', 'postgres'] as const) {
      expect(keysOf(HOME, dialect).players).toEqual(['branch_id → branches: cascade, no action']);
      expect(deletesOn(HOME, dialect, 'branches')).toEqual([]);
    }
  });

  test('is carried out by a trigger where they do not, and so on upwards', () => {
    const text = `${HOME}
entity Town
  id  integer key

relation of_town
  Branch knows one Town as town
  Town knows many Branch as branches
  on delete cascade
`;
    expect(keysOf(text, 'mariadb')).toEqual({
      players: ['branch_id → branches: no action, no action'],
      branches: ['town_id → towns: no action, no action'],
    });
    expect(deletesOn(text, 'mariadb', 'branches')).toEqual(['players']);
    expect(deletesOn(text, 'mariadb', 'towns')).toEqual(['branches']);
    expect(deletesOn(text, 'mariadb', 'players')).toEqual(['remarks']);
  });

  test('stays a foreign key’s where nothing below it is looked at', () => {
    const text = `${HOME}
entity Shelf
  id  integer key

relation shelved
  Shelf knows one Branch as branch
  Branch knows many Shelf as shelves
  on delete cascade
`;
    expect(keysOf(text, 'mariadb').shelves).toEqual(['branch_id → branches: cascade, no action']);
  });
});

describe('a rule that would come back to where it began', () => {
  const RING = `${BASE}
relation kept
  Hall knows at most one Remark as kept
  Remark knows many Hall as kept_in
  on delete cascade
`;

  test('is carried out where an engine can, and refused where no trigger may change what is being changed', () => {
    expect(unkept(RING, 'sqlite')).toEqual([]);
    expect(unkept(RING, 'postgres')).toEqual([]);
    expect(unkept(RING, 'mariadb')).toEqual(['delete halls → remarks', 'delete remarks → halls']);
    expect(deletesOn(RING, 'mariadb', 'players')).toEqual(['remarks']);
    expect(deletesOn(RING, 'mariadb', 'halls')).toEqual([]);
    expect(keysOf(RING, 'mariadb').halls).toEqual(['kept_id → remarks: no action, no action']);
  });

  test('within one table is refused, since no trigger would see what the foreign key takes along', () => {
    const text = `${BASE}
relation mentoring
  Player knows at most one Player as mentor
  Player knows many Player as pupils
  on delete cascade
`;
    expect(unkept(text, 'mariadb')).toEqual(['delete players → players']);
    expect(keysOf(text, 'mariadb').players).toEqual(['mentor_id → players: no action, no action']);
    expect(keysOf(text, 'sqlite').players).toEqual(['mentor_id → players: cascade, no action']);
  });

  test('that a convention made refuses in silence; one that the text states is an error with a fix', () => {
    const self = `${BASE}
relation answer
  Remark knows at most one Remark | Hall as answers
  each knows many Remark as replies
`;
    const told = (text: string) =>
      readDesign(text, 'mariadb')
        .findings.filter(({ code }) => code === 'triggered-cascade')
        .map(({ weight, fixes }) => [weight, fixes.map(({ title }) => title)]);
    expect(told(self)).toEqual([['note', []]]);
    expect(told(`${self}  on delete set null\n`)).toEqual([['error', ['Let it refuse']]]);
    expect(told(`${self}  on delete restrict\n`)).toEqual([]);
  });
});

test('a key that triggers look at does not follow another’s where no trigger would see it change', () => {
  const text = `${BASE}
entity Card
  key (player)

relation card
  Card knows one Player as player
  Player knows at most one Card as card
  on update cascade

relation stamp
  Remark knows at most one Card | Hall as stamp
`;
  expect(keysOf(text, 'sqlite').cards).toEqual(['player_id → players: restrict, cascade']);
  expect(keysOf(text, 'mariadb').cards).toEqual(['player_id → players: restrict, no action']);
  expect(unkept(text, 'mariadb')).toEqual(['update players → cards']);
});

test('triggers ask for kinds by one comparison each, which every engine reads back as it was written', () => {
  const text = `entity Instrument
  id  integer key
  kinds in single table by kind

entity Lute is Instrument
  strings  integer

entity Theorbo is Lute
  courses  integer

entity Loan
  id  integer key

relation lent
  Loan knows one Lute as lute
  Lute knows many Loan as loans
`;
  const { dialect, schema } = readDesign(text, 'postgres');
  const [first] = schema.tables.find(({ name }) => name.name === 'loans')?.triggers ?? [];
  const [sql] = first?.kind === 'made' ? dialect.trigger(first.trigger) : [];
  expect(sql).toContain("(there.kind = 'lute' or there.kind = 'theorbo')");
});
