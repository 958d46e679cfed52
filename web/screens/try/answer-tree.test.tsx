import { readFileSync } from 'node:fs';
import { cleanup, render, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, describe, expect, test } from 'vitest';
import { KIND_NAME } from '../../../core/model/index.js';
import { answers } from '../../workers/answer.js';
import { AnswerTree } from './answer-tree.js';

const view = answers.view({ text: readFileSync('demo/library.kin', 'utf8'), dialect: null });
const item = (name: string | RegExp) => screen.getByRole('treeitem', { name });

afterEach(cleanup);

describe('an answer as a tree', () => {
  test('has the rows that were loaded along below their owner, with how many they are', () => {
    const row = { id: 1, name: 'Mill Lane', players: [{ id: 4, name: 'Bo', branch_id: 1 }], loans: [] };
    render(<AnswerTree rows={[row]} entity="Branch" view={view} />);
    const owner = item('Mill Lane');
    expect(within(owner).getByRole('treeitem', { name: 'players, 1' })).toBeTruthy();
    expect(within(owner).getByRole('treeitem', { name: 'Bo' })).toBeTruthy();
    expect(within(owner).getByRole('treeitem', { name: 'loans, 0' }).getAttribute('aria-expanded')).toBeNull();
  });

  test('leaves out a key column where the row behind it was loaded', () => {
    const row = { id: 7, lent_on: '2031-02-01', borrower_id: 3, borrower: { id: 3, name: 'Ada Thorne' } };
    render(<AnswerTree rows={[row]} entity="Loan" view={view} />);
    expect(screen.queryByText('borrower_id')).toBeNull();
    cleanup();
    const { borrower, ...alone } = row;
    render(<AnswerTree rows={[alone]} entity="Loan" view={view} />);
    expect(screen.getByText('borrower_id')).toBeTruthy();
    expect(borrower.name).toBe('Ada Thorne');
  });

  test('says of a row that is loaded along and may not be seen that it is there', () => {
    const row = { id: 7, lent_on: '2031-02-01', borrower_id: { hidden: true }, borrower: { hidden: true } };
    render(<AnswerTree rows={[row]} entity="Loan" view={view} />);
    expect(item('borrower, hidden').textContent).toContain('hidden');
    expect(screen.queryByText('borrower_id')).toBeNull();
  });

  test('says of a row what kind it is, and shows it by that kind’s fields', () => {
    const row = { id: 'i1', [KIND_NAME]: 'StringInstrument', name: 'A viola', strings: 4 };
    render(<AnswerTree rows={[row]} entity="Instrument" view={view} />);
    expect(screen.getByTitle('What kind the row is').textContent).toBe('StringInstrument');
  });

  test('tells a pivot’s fields from the row’s own', () => {
    const row = { id: 2, name: 'Tide Quartet', players: [{ id: 5, name: 'Bo', seats: { chair: 2, since: null } }] };
    render(<AnswerTree rows={[row]} entity="Ensemble" view={view} />);
    expect(screen.getByTitle('seats.chair').textContent).toBe('chair');
  });

  test('a to-one role that leads to no row is a dash, and a value that does not fit is shown as it is stored', () => {
    render(<AnswerTree rows={[{ id: 7, borrower: null, lent_on: { asStored: 'soon' } }]} entity="Loan" view={view} />);
    expect(within(item('borrower, none')).getByTitle('null')).toBeTruthy();
    expect(screen.getByTitle(/does not fit its type/).textContent).toBe('▲ "soon"');
  });

  test('draws the first of many rows, and more when they are asked for', async () => {
    const rows = Array.from({ length: 130 }, (_, index) => ({ id: index + 1, name: `Branch ${index + 1}` }));
    render(<AnswerTree rows={rows} entity="Branch" view={view} />);
    expect(screen.getAllByRole('treeitem').length).toBe(100);
    await userEvent.click(screen.getByRole('button', { name: 'Show more: 30 left' }));
    expect(screen.getAllByRole('treeitem').length).toBe(130);
  });

  test('what is folded by the mouse leaves the keyboard at its owner', async () => {
    render(<AnswerTree rows={[{ id: 1, name: 'Mill Lane', players: [{ id: 4, name: 'Bo' }] }]} entity="Branch" view={view} />);
    await userEvent.click(screen.getByRole('button', { name: 'Fold Mill Lane' }));
    expect(screen.queryByRole('treeitem', { name: 'players, 1' })).toBeNull();
    expect(document.activeElement).toBe(item('Mill Lane'));
  });
});
