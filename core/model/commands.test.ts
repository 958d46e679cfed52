import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { readDesign } from '../design/index.js';

const design = readDesign(readFileSync('demo/library.kin', 'utf8'));
const found = (text: string) => design.commandsOf(text);
const messages = (text: string) => found(text).findings.map(({ message }) => message);

describe('a command means rows, fields and roles of the design', () => {
  test('a line each, or on one line; a name stands for its row in the lines after it', () => {
    const { commands, findings } = found(
      "p = create Player with name 'Ines', email 'i@made.example', branch Branch(1), loans: (instrument Instrument(1), due_on today), (instrument Instrument(2), due_on today); link Player(p).ensembles to Ensemble(1), Ensemble(2) with chair 4; delete Loan[overdue]",
    );
    expect(findings).toEqual([]);
    expect(commands?.map(({ name, command }) => [name, command.kind])).toEqual([
      ['p', 'create'],
      [null, 'link'],
      [null, 'delete'],
    ]);
    const [made] = commands ?? [];
    const row = made?.command.kind === 'create' ? made.command.row : null;
    expect(row?.children.map(({ role, rows }) => [role.name, rows.length])).toEqual([['loans', 2]]);
  });

  test('rows are those of a key, of a condition, or behind roles of those', () => {
    const rowsOf = (text: string) => {
      const [one] = found(text).commands ?? [];
      return one?.command.kind === 'delete'
        ? [one.command.rows.entity, one.command.rows.path.join('.'), one.command.rows.one]
        : null;
    };
    expect(rowsOf('delete Player(3)')).toEqual(['Player', '', true]);
    expect(rowsOf("delete Player[email = 'a@made.example']")).toEqual(['Player', '', true]);
    expect(rowsOf("delete Player[name = 'Ines']")).toEqual(['Player', '', false]);
    expect(rowsOf('delete Player(3).loans[overdue]')).toEqual(['Loan', 'loans', false]);
    expect(rowsOf('delete Loan(1).borrower.card')).toEqual(['Card', 'borrower.card', true]);
  });
});

describe('a command that means nothing is told with its place and a way out', () => {
  test.each([
    ['creat Player', 'Did you mean create?'],
    ['create Playr', 'Did you mean Player?'],
    ["create Player with nam 'x'", 'Did you mean name?'],
    ['create Instrument', 'Make one of its kinds: StringInstrument, WindInstrument.'],
    ['create Player(3)', 'say what is made'],
    ["create Player[name = 'x']", 'a row that is made is not sought'],
    ["create Player with name 'x', name 'y'", 'says name twice'],
    ["create Player with portrait_url 'x'", 'is computed'],
    ['create Player with loans Loan(1)', 'leads to many rows'],
    ['create Player with branch: (town null)', 'leads to one row'],
    ['create Player with branch Maker(1)', 'is a row of Branch'],
    ['create Loan with due_on 3', 'a date cannot be set to an integer'],
    ['create Branch(1).loans with due_on today', 'is a path over other relations'],
    ['find or create Player', 'say in a bracket'],
    ["find or create Player[name like 'x']", 'a row is found by what'],
    ['update Player with name null', 'this would be all rows of Player'],
    ["update Player(1) with created_at '2031-01-01'", 'is fixed'],
    ['update Player(1) with id 4', 'is of the key'],
    ["update Player(1) with cards: (number '1')", 'children are made with “create”'],
    ['update Player(1)', 'Expected with'],
    ['link Player(1).ensembles to Branch(1)', 'leads to Ensemble, and this is Branch'],
    ['link Player(1).ensembles to Ensemble(1) with chiar 2', 'Did you mean chair?'],
    ['link Player(1).duet_partners to Player(2) with chair 2', 'a pair of duet_partners has no fields'],
    ['link Player(1) to Ensemble(1)', 'say the role'],
    ['unlink Player(1).ensembles', 'say from what'],
    ['delete Player', 'Player[true]'],
    ['as nobody', 'There is no command'],
    ['as Ensemble(1); delete Player(1)', 'whoever is at work is a row of Player'],
    ['x = delete Player(1)', 'this command makes and finds none'],
    ['x = create Ensemble with title null; create Player(x).loans', 'x is a row of Ensemble'],
    ['', 'There is no command'],
  ])('%s', (text, message) => {
    expect(messages(text).join('\n')).toContain(message);
    expect(found(text).commands).toBeNull();
  });

  test('matching by what nothing makes unique works, and is told', () => {
    const { commands, findings } = found("find or create Player[name = 'Ines'] with email 'i@made.example', branch Branch(1)");
    expect(commands).toHaveLength(1);
    expect(findings).toMatchObject([{ weight: 'warning', code: 'match-not-unique' }]);
    expect(messages("find or create Player[email = 'i@made.example'] with name 'Ines', branch Branch(1)")).toEqual([]);
  });
});
