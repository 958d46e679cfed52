import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { parse } from '../notation/index.js';
import { type KeyRelation, type PivotRelation, resolve } from './index.js';

const PLAYERS = `
entity Branch in branches
  id    integer key
  name  text(80) unique

entity Player in players
  id     integer key
  name   text(120)
  email  text(255) unique

entity Loan
  id           integer key
  due_on       date
  returned_on  date optional

entity Ensemble
  id     integer key
  title  text(80)

relation home_branch
  Player knows one Branch as branch
  Branch knows many Player as players

relation borrowing
  Loan knows at most one Player as borrower
  Player knows many Loan as loans

relation seating
  Player knows many Ensemble as ensembles
  Ensemble knows many Player as players
`;

function resolved(text: string) {
  const { model, findings } = resolve(parse(text));
  return { model, findings, messages: findings.map((finding) => finding.message) };
}

/** The messages about a text that stands behind the players'. */
function messagesAbout(text: string): string[] {
  return resolved(`${PLAYERS}\n${text}`).messages;
}

function keyRelation(text: string, name: string): KeyRelation {
  const relation = resolved(text).model.relations.get(name);
  if (relation?.kind !== 'key') throw new Error(`${name} is no key relation`);
  return relation;
}

function pivotRelation(text: string, name: string): PivotRelation {
  const relation = resolved(text).model.relations.get(name);
  if (relation?.kind !== 'pivot') throw new Error(`${name} is no pivot`);
  return relation;
}

describe('conventions are filled in and marked', () => {
  test('a table is the plural of the entity in snake_case', () => {
    const { model } = resolved('entity StringInstrument\n  id integer key\n\nentity Loan in lendings\n  id integer key\n');
    expect(model.entities.get('StringInstrument')?.table).toMatchObject({
      value: { name: 'string_instruments' },
      origin: { kind: 'convention' },
    });
    expect(model.entities.get('Loan')?.table).toMatchObject({ value: { name: 'lendings' }, origin: { kind: 'stated' } });
  });

  test('a key column is the role and _id, on the side that knows one', () => {
    expect(keyRelation(PLAYERS, 'home_branch')).toMatchObject({
      child: 'Player',
      parent: 'Branch',
      columns: [{ value: 'branch_id', origin: { kind: 'convention' } }],
      required: true,
    });
    expect(keyRelation(PLAYERS, 'borrowing')).toMatchObject({ columns: [{ value: 'borrower_id' }], required: false });
  });

  test('on delete restricts where one is known, and sets null where at most one is', () => {
    expect(keyRelation(PLAYERS, 'home_branch').onDelete).toMatchObject({ value: 'restrict', origin: { kind: 'convention' } });
    expect(keyRelation(PLAYERS, 'borrowing').onDelete).toMatchObject({ value: 'set null', origin: { kind: 'convention' } });
    expect(pivotRelation(PLAYERS, 'seating').onDelete.value).toBe('cascade');
  });

  test('a pivot takes the relation’s name, and its columns the entities’', () => {
    const { table, ends } = pivotRelation(PLAYERS, 'seating');
    expect(table.value.name).toBe('seating');
    expect(ends.flatMap((end) => end.columns.map((column) => column.value))).toEqual(['player_id', 'ensemble_id']);
  });

  test('the columns of a pivot of one entity take the other sentence’s role', () => {
    const text = `${PLAYERS}\nrelation following\n  Player knows many Player as followed\n  Player knows many Player as followers\n`;
    expect(pivotRelation(text, 'following').ends.flatMap((end) => end.columns.map((column) => column.value))).toEqual([
      'follower_id',
      'followed_id',
    ]);
  });

  test('a symmetric pivot has a column of the entity and one of the role', () => {
    const text = `${PLAYERS}\nrelation duets\n  Player knows many Player as partners, both ways\n`;
    expect(pivotRelation(text, 'duets')).toMatchObject({
      form: 'symmetric',
      ends: [{ columns: [{ value: 'player_id' }] }, { columns: [{ value: 'partner_id' }] }],
    });
  });

  test('a one-to-one is stored where one is known, and is unique there', () => {
    const text = `${PLAYERS}\nentity Card\n  id integer key\n\nrelation card\n  Player knows at most one Card as card\n  Card knows one Player as player\n`;
    expect(keyRelation(text, 'card')).toMatchObject({ form: 'one-to-one', child: 'Card', columns: [{ value: 'player_id' }] });
  });

  test('a row is shown by its first text field, else by its key', () => {
    const { model } = resolved(PLAYERS);
    expect(model.entities.get('Player')?.shownAs).toMatchObject({ value: { field: 'name' }, origin: { kind: 'convention' } });
    expect(model.entities.get('Loan')?.shownAs).toMatchObject({ value: { field: 'id' } });
  });

  test('a mixin’s fields stand in each entity that uses it, and say where they come from', () => {
    const { model } = resolved(
      'mixin Dated\n  created_at timestamp default now\n\nentity Loan\n  id integer key\n  uses Dated\n',
    );
    expect(model.entities.get('Loan')?.fields[1]).toMatchObject({ name: 'created_at', mixin: 'Dated', default: { kind: 'now' } });
  });
});

describe('errors name the thing, the place and a way out', () => {
  test.each([
    ['relation x\n  Loan knows one Plyer as p\n', 'There is no entity Plyer. Did you mean Player?'],
    [
      'relation x\n  Player knows one Branch as name\n',
      'Player.name is a field already, which the role would hide. Give this role another name.',
    ],
    ['relation x\n  Player knows one Branch as branch\n', 'Player.branch is a role of relation home_branch already'],
    ['relation x\n  Player knows one Player as mentor\n', 'no first Player could exist'],
    ['relation x\n  Player knows one Branch as second\n  on delete set null\n', 'cannot be set null'],
    [
      'relation x\n  Player knows at most one Loan as a\n  Loan knows at most one Player as b\n',
      'both ends read alike, so say where the key stands',
    ],
    [
      'relation x\n  Player knows one Branch as y\n  Branch knows many Player as ys\n  stored in Branch.y_id\n',
      'the key stands in Player',
    ],
    [
      'relation x\n  Player knows many Ensemble as a\n  Ensemble knows many Player as b\n  stored in Player.e_id\n',
      'stored in a table of pairs',
    ],
    ['entity Card\n  number text(10)\n', 'Card has no key'],
    ['entity player\n', 'Entities, mixins and choices start with a capital'],
    ['entity Branch\n  id integer key\n', 'There is an entity, mixin or choice Branch already'],
    ['entity Card\n  id integer key\n  kind Sort\n', 'There is no choice Sort'],
    [
      'entity Card\n  id integer key\n  expires date default 5\n',
      'Card.expires is date, so its value is a text in single quotes',
    ],
    ["entity Card\n  id integer key\n  expires date default '2031-02-30'\n", '“2031-02-30” is no date'],
    ['entity Card\n  id integer key\n  check later: id > today\n', 'so it cannot use today'],
    ['scope late\n  Loan where due_no < today\n', 'There is no field, role or scope of Loan called due_no. Did you mean due_on?'],
    ['scope late\n  Loan where due_on = null\n', 'nothing equals null'],
    ['scope late\n  Loan where borrower.loans.due_on < today\n', 'stands inside any( ), none( ), all( ) or count( )'],
    ['scope late\n  Loan where later\n\nscope later\n  Loan where late\n', 'stands on itself'],
    ['query q\n  from Loan\n  where borrower = 3\n', 'Compare it with a parameter of type Player, or with a row like Player(1)'],
    ['query q\n  from Loan\n  where due_on < :day\n', 'there is no parameter :day'],
    ['query q\n  from Loan\n  load due_on\n', 'only related rows are loaded'],
    ['query q\n  from Loan\n  where due_on + 3 < today\n', 'a date and days'],
    ['query create\n  from Loan\n', 'create is a command'],
    ['scope loans\n  Player where id > 1\n', 'Player.loans is a role of relation borrowing already'],
    ['sample Loan\n  a: borower Player(x)\n', 'Did you mean borrower?'],
    ['sample Loan\n  a: borrower Player(ines)\n', 'There is no sample row of Player called ines'],
  ])('%s', (text, message) => {
    expect(messagesAbout(text).join('\n')).toContain(message);
  });

  test('a key column that is declared, too, must fit the target’s key', () => {
    const text =
      'entity Player\n  id uuid key\n\nentity Loan\n  id integer key\n  borrower_id integer\n\nrelation borrowing\n  Loan knows one Player as borrower\n';
    expect(resolved(text).messages[0]).toBe(
      'Loan.borrower: Player’s key is uuid, but loans.borrower_id is integer. Change the field to uuid, or remove it and let the relation make it.',
    );
  });

  test('the place of an error is the word that is wrong', () => {
    const text = `${PLAYERS}\nscope late\n  Loan where due_no < today\n`;
    const [finding] = resolved(text).findings;
    expect(text.slice(finding?.span.start, finding?.span.end)).toBe('due_no');
    expect(finding?.fixes[0]?.edits[0]?.text).toBe('due_on');
  });

  test('two tables of one name are told apart in an error', () => {
    expect(messagesAbout('entity Card in players\n  id integer key\n').join()).toContain('both stored in table players');
  });
});

describe('what is not built is left out whole, and the rest works', () => {
  test('the apiary and the sample of the notation have notes and no errors', () => {
    for (const file of ['tests/apiary.kin', 'tests/notation-sample.kin']) {
      expect(resolved(readFileSync(file, 'utf8')).findings.filter((finding) => finding.weight !== 'note')).toEqual([]);
    }
  });

  test('whatever names a part that is left out is left out with a note of its own', () => {
    const text = `${PLAYERS}\nentity Visit abstract\n  id integer key\n\nrelation seen\n  Visit knows one Player as player\n  Player knows many Visit as visits\n\nscope visited\n  Player where any(visits)\n`;
    const { findings } = resolved(text);
    expect(findings.map(({ weight, code }) => [weight, code])).toEqual([
      ['error', 'abstract-alone'],
      ['note', 'left-out'],
      ['note', 'left-out'],
    ]);
    expect(findings.map((finding) => finding.message).join('\n')).toMatch(
      /relation seen is left out[\s\S]*scope visited of Player is left out/,
    );
  });
});

describe('two things of one name', () => {
  const findingsOf = (text: string) => resolve(parse(text)).findings;
  const BRANCH = `mixin Dated
  made_on  date optional

entity Branch
  id    integer key
  name  text(20)
  full = name || '!'
  uses Dated

entity Player
  id  integer key

relation home
  Player knows one Branch as branch
  Branch knows many Player as players
`;
  test.each([
    ['a derived field and a field', "  name = 'z'", 'Branch.name is a field already. Give one of the two another name.'],
    ['two derived fields', "  full = 'z'", 'Branch.full is a derived field already. Give one of the two another name.'],
    ['a derived field and a line of a mixin', '  made_on = today', 'Branch.made_on is a field already, from Dated.'],
    ['a derived field and a role', "  players = 'p'", 'Branch.players is a derived field already. Give this role another name.'],
    ['a path and a derived field', '\npath Branch.full = players', 'Branch.full is a derived field already. Give the path'],
    [
      'a scope and a derived field',
      '\nscope full\n  Branch where id > 1',
      'Branch.full is a derived field already. Give the scope',
    ],
    [
      'a scope and a path',
      '\npath Branch.those = players\n\nscope those\n  Branch where id > 1',
      'Branch.those is a path already. Give the scope another name.',
    ],
  ])('are told: %s', (_what, line, message) => {
    expect(findingsOf(BRANCH)).toEqual([]);
    const text = line.startsWith('  ') ? BRANCH.replace('  uses Dated', `${line}\n  uses Dated`) : `${BRANCH}${line}\n`;
    expect(
      findingsOf(text)
        .map((finding) => finding.message)
        .join('\n'),
    ).toContain(message);
  });
});

test('a query may see over a wall that the text declares, and over no other', () => {
  const lifting = (wall: string) =>
    `${PLAYERS}\nwall own_branch\n  Player where id > 0\n\nquery q\n  from Player\n  lift ${wall}\n`;
  const told = ({ findings }: ReturnType<typeof resolved>) => findings.map(({ code }) => code);
  expect(told(resolved(lifting('own_branch')))).toEqual([]);
  const misspelt = resolved(lifting('own_brnch'));
  expect(told(misspelt)).toContain('unknown-wall');
  expect(misspelt.findings.find(({ code }) => code === 'unknown-wall')?.message).toContain('own_branch');
});
