import { readFileSync } from 'node:fs';
import { cleanup, render, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { Provider } from 'react-redux';
import { createMemoryRouter, RouterProvider } from 'react-router';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import { store } from '../../app/store.js';
import { closed, opened } from '../../app/workspace.js';
import { answers } from '../../workers/answer.js';
import type { AskKind, Asks } from '../../workers/asks.js';
import { Relate } from './relate.js';

// What the worker answers is asked of the same code, in the page.
vi.mock('../../app/design-client.js', () => ({
  askDesign: <K extends AskKind>(kind: K, ask: Asks[K][0]) => Promise.resolve(answers[kind](ask)),
}));

const text = readFileSync('demo/library.kin', 'utf8');
const view = answers.view({ text, dialect: null });
const inUse = { kind: 'own file', dialect: 'sqlite', address: null, label: null, unlocked: false, passwordKept: false } as const;
const onClose = vi.fn();

async function draw(): Promise<void> {
  vi.stubGlobal(
    'ResizeObserver',
    class {
      observe(): void {}
      unobserve(): void {}
      disconnect(): void {}
    },
  );
  store.dispatch(
    opened({ tree: { id: 't', title: 'T', kind: 'made', arrived: false, revision: 1, text, file: null, inUse }, draft: null }),
  );
  const element = (
    <Provider store={store}>
      <Relate view={view} from="Hall" onClose={onClose} />
    </Provider>
  );
  render(<RouterProvider router={createMemoryRouter([{ path: '*', element }])} />);
  await screen.findByRole('button', { name: 'Add to the text' });
}

const sentence = () => screen.getByRole('group', { name: 'First sentence' });
const written = () => screen.getByRole('heading', { name: /^In the text/ }).nextElementSibling?.textContent ?? '';

beforeEach(draw);
afterEach(() => {
  cleanup();
  store.dispatch(closed());
  vi.unstubAllGlobals();
  vi.clearAllMocks();
});

describe('relating two entities', () => {
  test('begins with one that is not related yet, and shows the text and the tables that it makes', async () => {
    expect(await screen.findByRole('heading', { name: /^In the text, one-to-many/ })).toBeTruthy();
    expect(written()).toContain('Hall knows one');
    expect(screen.getAllByRole('figure').length).toBeGreaterThan(0);
  });

  test('follows what is chosen: many on both sides is stored in a pivot', async () => {
    const user = userEvent.setup();
    await user.click(within(sentence()).getByRole('button', { name: /knows/ }));
    await user.click(await screen.findByRole('option', { name: 'many' }));
    expect(await screen.findByRole('heading', { name: /^In the text, many-to-many/ })).toBeTruthy();
    expect(await screen.findByRole('heading', { name: /^A new table/ })).toBeTruthy();
  });

  test('is added as it stands, by a change of the text that can be taken back', async () => {
    const user = userEvent.setup();
    await user.click(await screen.findByRole('button', { name: 'Add to the text' }));
    const { workspace } = store.getState();
    expect(workspace.text).toContain('Hall knows one');
    expect(workspace.history.past.length).toBe(1);
    expect(onClose).toHaveBeenCalledWith(expect.stringMatching(/^hall_/));
  });

  test('a role that the entity bears already is said, and cannot be added', async () => {
    const user = userEvent.setup();
    const role = screen.getByRole('textbox', { name: 'First sentence: role' });
    await user.clear(role);
    await user.type(role, 'concerts');
    expect((await screen.findAllByRole('alert')).map(({ textContent }) => textContent).join()).toContain('concerts');
    expect(screen.getByRole('button', { name: 'Add to the text' }).hasAttribute('disabled')).toBe(true);
  });
});
