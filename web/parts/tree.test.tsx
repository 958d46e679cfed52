import { cleanup, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import { Tree, TreeGroup, TreeItem } from './tree.js';

function Foldable({ first = false }: { readonly first?: boolean }) {
  const [open, setOpen] = useState(true);
  return (
    <TreeItem label="Mill Lane" open={open} first={first} onOpen={setOpen}>
      Mill Lane
      {open && (
        <TreeGroup>
          <TreeItem label="halls, 2" open={null}>
            halls
          </TreeItem>
          <TreeItem label="players, 9" open={null}>
            players
          </TreeItem>
        </TreeGroup>
      )}
    </TreeItem>
  );
}

describe('a tree by keyboard', () => {
  const focused = () => document.activeElement?.getAttribute('aria-label');

  beforeEach(() => {
    render(
      <>
        <button type="button">Before</button>
        <Tree label="Answer">
          <Foldable first />
          <TreeItem label="Quay" open={null}>
            Quay
          </TreeItem>
        </Tree>
        <button type="button">After</button>
      </>,
    );
  });
  afterEach(cleanup);

  test('is one stop of Tab: its first item, and later the one that was left', async () => {
    const user = userEvent.setup();
    await user.tab();
    await user.tab();
    expect(focused()).toBe('Mill Lane');
    await user.keyboard('{ArrowDown}{ArrowDown}');
    expect(focused()).toBe('players, 9');
    await user.tab();
    expect(screen.getByRole('button', { name: 'After' })).toBe(document.activeElement);
    await user.tab({ shift: true });
    expect(focused()).toBe('players, 9');
  });

  test('Left folds an item and then leads above it, Right unfolds it and then leads below it', async () => {
    const user = userEvent.setup();
    screen.getByRole('treeitem', { name: 'players, 9' }).focus();
    await user.keyboard('{ArrowLeft}');
    expect(focused()).toBe('Mill Lane');
    await user.keyboard('{ArrowLeft}');
    expect(screen.queryByRole('treeitem', { name: 'players, 9' })).toBeNull();
    await user.keyboard('{ArrowDown}');
    expect(focused()).toBe('Quay');
    await user.keyboard('{Home}{ArrowRight}');
    expect(screen.getByRole('treeitem', { name: 'halls, 2' })).toBeTruthy();
    expect(focused()).toBe('Mill Lane');
    await user.keyboard('{ArrowRight}');
    expect(focused()).toBe('halls, 2');
  });

  test('ends lead no further', async () => {
    const user = userEvent.setup();
    screen.getByRole('treeitem', { name: 'Quay' }).focus();
    await user.keyboard('{ArrowDown}{End}');
    expect(focused()).toBe('Quay');
    await user.keyboard('{Home}{ArrowUp}');
    expect(focused()).toBe('Mill Lane');
  });
});
