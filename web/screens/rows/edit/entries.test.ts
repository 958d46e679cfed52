import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { TITLE } from '../../../../core/plan/index.js';
import { answers } from '../../../workers/answer.js';
import { columnsOf } from '../columns.js';
import { blockBetween, blockText, cellsOf } from './block.js';
import { type ChangedCells, commandsOf, countOf, isEditable, problemOf, storedText, typedText, withCell } from './entries.js';

const view = answers.view({ text: readFileSync('demo/library.kin', 'utf8'), dialect: null });
const entity = (name: string) => {
  const found = view.entities.find((candidate) => candidate.name === name);
  if (found === undefined) throw new Error(`no ${name}`);
  return found;
};
const loan = entity('Loan');
const columns = columnsOf(loan, null, view.entities);
const column = (id: string, of = columns) => {
  const found = of.find((one) => one.id === id);
  if (found === undefined) throw new Error(`no ${id}`);
  return found;
};
const ROW = { id: 7, lent_on: '2031-01-02', due_on: '2031-02-02', returned_on: null, borrower: { id: 3, [TITLE]: 'Ada' } };

describe('what was changed in a grid', () => {
  const value = (text: string) => ({ entry: { kind: 'value' as const, text }, was: null });

  test('is kept by row and column, and a cell that is put back is none', () => {
    const one = withCell(withCell({}, '7', 'due_on', value('2031-03-01')), '8', 'due_on', value('2031-03-02'));
    expect(countOf(one)).toEqual({ rows: 2, cells: 2 });
    const back = withCell(one, '7', 'due_on', null);
    expect(countOf(back)).toEqual({ rows: 1, cells: 1 });
    expect(withCell(back, '8', 'due_on', null)).toEqual({});
  });

  test('is written as one command a row, with rows by their keys and nothing as null', () => {
    const cells: ChangedCells = {
      7: {
        due_on: value('2031-03-01'),
        returned_on: { entry: { kind: 'nothing' }, was: '2031-01-09' },
        borrower: { entry: { kind: 'row', row: { entity: 'Player', key: '9', shown: 'Bo' } }, was: null },
      },
      8: { due_on: value("it's no day") },
    };
    expect(commandsOf(cells, loan, columns, view.entities)).toBe(
      "update Loan(7) with due_on '2031-03-01', returned_on null, borrower Player(9)\nupdate Loan(8) with due_on 'it''s no day'",
    );
  });

  test('nobody changes a key, what is computed, what is set once, or what leads to many', () => {
    const open = (id: string) => isEditable(column(id), ROW, loan);
    expect(['due_on', 'borrower'].filter(open)).toEqual(['due_on', 'borrower']);
    expect(['id'].filter(open)).toEqual([]);
    const player = entity('Player');
    const ofPlayer = columnsOf(player, null, view.entities);
    const closed = ['portrait_url', 'created_at', 'loans', 'last_loan'];
    expect(closed.filter((id) => isEditable(column(id, ofPlayer), { id: 1 }, player))).toEqual([]);
  });

  test('a value is typed as it is shown, and told where it does not fit', () => {
    const due = column('due_on');
    const field = due.kind === 'field' ? due.field : null;
    if (field === null) throw new Error('no field');
    expect(problemOf(field, '2031-02-30')).toContain('2031-02-30');
    expect(problemOf(field, '2031-02-28')).toBeNull();
    expect(storedText(column('borrower'), ROW)).toBe('Player(3)');
    expect(storedText(column('returned_on'), ROW)).toBeNull();
    expect(typedText('2031-04-12T09:30:00.000000Z', { ...field, kind: 'timestamp' })).toBe('2031-04-12 09:30');
    expect(typedText('AP8=', { ...field, kind: 'bytes' })).toBe('00ff');
    expect(typedText({ a: 1 }, { ...field, kind: 'json' })).toBe('{"a":1}');
  });
});

describe('a block of cells', () => {
  test('goes to a spreadsheet and comes back as it was, whatever stands in a cell', () => {
    const cells = [
      ['a', 'b\tc', ''],
      ['d\ne', 'say "f"', ' g '],
    ];
    expect(cellsOf(blockText(cells))).toEqual(cells);
    expect(cellsOf('1\t2\r\n3\t4\r\n')).toEqual([
      ['1', '2'],
      ['3', '4'],
    ]);
    expect(cellsOf('one')).toEqual([['one']]);
  });

  test('lies between two corners, whichever was first', () => {
    expect(blockBetween({ row: 4, column: 1 }, { row: 2, column: 3 })).toEqual({ top: 2, bottom: 4, left: 1, right: 3 });
  });
});
