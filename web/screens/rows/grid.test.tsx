import { readFileSync } from 'node:fs';
import { cleanup, fireEvent, render, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import { TITLE } from '../../../core/plan/index.js';
import { answers } from '../../workers/answer.js';
import { columnsOf } from './columns.js';
import type { GridEditing } from './edit/use-grid-editing.js';
import { Grid } from './grid.js';
import { movedBy } from './grid-keys.js';
import type { RowWindow } from './use-window.js';

const view = answers.view({ text: readFileSync('demo/library.kin', 'utf8'), dialect: null });
const entity = (name: string) => {
  const found = view.entities.find((candidate) => candidate.name === name);
  if (found === undefined) throw new Error(`no ${name}`);
  return found;
};

const PLAYERS = [
  { id: 1, name: 'Ada', email: 'ada@cinder.example', branch_id: 1, branch: { id: 1, [TITLE]: 'Mill Lane' } },
  { id: 2, name: 'Bo', email: null, branch_id: 77, branch: null },
];
const COUNTS = [{ loans: 3 }, { loans: 0 }];

const walk = { trail: [], toRow: vi.fn(), toRows: vi.fn(), back: vi.fn() };
const onOrder = vi.fn();

function draw(more: Partial<RowWindow> = {}, editing: GridEditing | null = null) {
  const player = entity('Player');
  const columns = columnsOf(player, null, view.entities).filter(({ id }) => ['id', 'name', 'branch', 'loans'].includes(id));
  const data: RowWindow = {
    first: null,
    failed: null,
    loading: false,
    row: (index) => PLAYERS[index] ?? null,
    counts: (index) => COUNTS[index] ?? null,
    see: () => undefined,
    ...more,
  };
  render(
    <Grid
      onMove={null}
      entity={player}
      columns={columns}
      total={2}
      data={data}
      orderBy=""
      here="Player"
      walk={walk}
      editing={editing}
      onWrite={() => undefined}
      onDelete={() => undefined}
      onOrder={onOrder}
    />,
  );
  return screen.getByRole('grid', { name: 'Rows of Player' });
}

beforeEach(() => {
  // A page that nobody looks at has no heights: the grid draws what fits one that has.
  vi.spyOn(Element.prototype, 'clientHeight', 'get').mockReturnValue(400);
  vi.spyOn(Element.prototype, 'clientWidth', 'get').mockReturnValue(800);
  Element.prototype.scrollTo = () => undefined;
});
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
  vi.clearAllMocks();
});

describe('the grid of rows', () => {
  const at = (grid: HTMLElement) => document.getElementById(grid.getAttribute('aria-activedescendant') ?? '');

  test('shows what a row points at by its title, a key that leads nowhere as such, and how many it knows', () => {
    const [, ada, bo] = within(draw()).getAllByRole('row');
    expect(ada?.textContent).toContain('Mill Lane');
    expect(bo?.textContent).toContain('✕ 77');
    expect(within(ada as HTMLElement).getByRole('button', { name: '3 loans' })).toBeTruthy();
    expect(within(bo as HTMLElement).queryByRole('button', { name: /loans/ })).toBeNull();
  });

  test('what is on its way is told from what is empty', () => {
    const [, ada] = within(draw({ counts: () => null })).getAllByRole('row');
    expect(ada?.textContent).toContain('…');
    cleanup();
    const [, waiting] = within(draw({ row: () => null })).getAllByRole('row');
    expect(waiting?.textContent).toContain('·');
  });

  test('arrows move by a cell, and Enter walks to where the cell leads', async () => {
    const user = userEvent.setup();
    const grid = draw();
    grid.focus();
    await user.keyboard('{ArrowRight}{ArrowRight}{ArrowRight}');
    expect(at(grid)?.textContent).toBe('Mill Lane');
    await user.keyboard('{Enter}');
    expect(walk.toRow).toHaveBeenCalledWith('Branch', 1, 'Player');
    await user.keyboard('{ArrowRight}{Enter}');
    expect(walk.toRows).toHaveBeenCalledWith('Player', 1, 'loans', 'Loan', 'Player');
    await user.keyboard('{Home}{Enter}');
    expect(walk.toRow).toHaveBeenLastCalledWith('Player', 1, 'Player');
  });

  test('Enter on a role that leads to no row does nothing', async () => {
    const user = userEvent.setup();
    const grid = draw();
    grid.focus();
    await user.keyboard('{ArrowDown}{ArrowRight}{ArrowRight}{ArrowRight}{Enter}{ArrowRight}{Enter}');
    expect(at(grid)?.textContent).toBe('0');
    expect(walk.toRow).not.toHaveBeenCalled();
    expect(walk.toRows).not.toHaveBeenCalled();
  });

  test('a click chooses the cell that the arrows go on from', async () => {
    const user = userEvent.setup();
    const grid = draw();
    await user.click(screen.getByText('Bo'));
    grid.focus();
    await user.keyboard('{ArrowRight}');
    expect(at(grid)?.textContent).toBe('✕ 77');
  });

  test('a head orders the rows by its column: a role by what is shown of its row, or by how many', async () => {
    const user = userEvent.setup();
    draw();
    await user.click(screen.getByRole('button', { name: /^branch/ }));
    await user.click(screen.getByRole('button', { name: /^loans/ }));
    expect(onOrder.mock.calls).toEqual([['branch.name'], ['count(loans)']]);
  });
});

describe('keys of a grid', () => {
  const size = { row: 300, column: 5 };
  const from = { row: 10, column: 2 };

  test.each([
    ['ArrowDown', false, { row: 11, column: 2 }],
    ['ArrowLeft', false, { row: 10, column: 1 }],
    ['PageDown', false, { row: 30, column: 2 }],
    ['PageUp', false, { row: 0, column: 2 }],
    ['Home', false, { row: 10, column: 0 }],
    ['End', false, { row: 10, column: 4 }],
    ['Home', true, { row: 0, column: 0 }],
    ['End', true, { row: 299, column: 4 }],
    ['a', false, null],
  ])('%s, with Ctrl: %s', (key, control, to) => {
    expect(movedBy(key, control, from, size, 20)).toEqual(to);
  });

  test('lead to no cell that is not there', () => {
    expect(movedBy('ArrowUp', false, { row: 0, column: 0 }, size, 20)).toEqual({ row: 0, column: 0 });
    expect(movedBy('ArrowDown', false, { row: 0, column: 0 }, { row: 0, column: 0 }, 20)).toEqual({ row: 0, column: 0 });
  });
});

describe('a grid whose cells can be changed', () => {
  const editing = (): GridEditing => ({
    tree: '',
    cells: { 2: { name: { entry: { kind: 'value', text: 'Bob' }, was: 'Bo' } } },
    open: null,
    note: '',
    begin: vi.fn(() => true),
    take: vi.fn(),
    cancel: vi.fn(),
    empty: vi.fn(),
    copy: vi.fn(() => ''),
    paste: vi.fn(),
    undo: vi.fn(),
  });

  test('shows what was changed and is not written, with what stands in the database', () => {
    const [, , bo] = within(draw({}, editing())).getAllByRole('row');
    expect(
      within(bo as HTMLElement)
        .getByText('Bob')
        .getAttribute('title'),
    ).toContain('“Bo” in the database');
  });

  test('takes its keys for itself: the page around it hears of none of them', async () => {
    const heard = vi.fn();
    window.addEventListener('keydown', heard);
    const one = editing();
    const user = userEvent.setup();
    try {
      draw({}, one).focus();
      await user.keyboard('{ArrowRight}{ArrowRight}');
      heard.mockClear();
      await user.keyboard('{Control>}z{/Control}?{Delete}{Enter}');
      expect(heard.mock.calls.map(([event]) => (event as KeyboardEvent).key)).toEqual(['Control']);
    } finally {
      window.removeEventListener('keydown', heard);
    }
    expect(one.undo).toHaveBeenCalledTimes(1);
    expect(one.begin).toHaveBeenNthCalledWith(1, { row: 0, column: 2 }, '?');
    expect(one.begin).toHaveBeenNthCalledWith(2, { row: 0, column: 2 }, null);
    expect(one.empty).toHaveBeenCalledWith({ row: 0, column: 2 });
  });

  test('a block that is drawn with Shift is emptied, and copied, as one', async () => {
    const one = editing();
    const user = userEvent.setup();
    const grid = draw({}, one);
    grid.focus();
    await user.keyboard('{ArrowRight}{ArrowRight}{Shift>}{ArrowDown}{ArrowRight}{/Shift}{Delete}');
    expect(vi.mocked(one.empty).mock.calls.map(([place]) => place)).toEqual([
      { row: 0, column: 2 },
      { row: 0, column: 3 },
      { row: 1, column: 2 },
      { row: 1, column: 3 },
    ]);
    fireEvent.copy(grid, { clipboardData: { setData: () => undefined } });
    expect(one.copy).toHaveBeenCalledWith({ top: 0, bottom: 1, left: 2, right: 3 });
  });
});
