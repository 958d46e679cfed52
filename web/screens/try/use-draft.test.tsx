import { readFileSync } from 'node:fs';
import { act, renderHook } from '@testing-library/react';
import type { ReactNode } from 'react';
import { MemoryRouter, useLocation } from 'react-router';
import { describe, expect, test } from 'vitest';
import { answers } from '../../workers/answer.js';
import { useDraft } from './use-draft.js';

const view = answers.view({ text: readFileSync('demo/library.kin', 'utf8'), dialect: null });
const forget = () => undefined;

function drafting(address: string) {
  const wrapper = ({ children }: { children: ReactNode }) => <MemoryRouter initialEntries={[address]}>{children}</MemoryRouter>;
  return renderHook(() => ({ draft: useDraft(view, forget), address: useLocation().search }), { wrapper }).result;
}

describe('what is drafted', () => {
  test('is the first query of the text where the address names none, and the address is left to the person', () => {
    const seen = drafting('/try');
    expect(seen.current.draft.text).toBe(view.queries[0]?.body);
    expect(seen.current.draft.chosen?.name).toBe(view.queries[0]?.name);
    expect(seen.current.address).toBe('');
  });

  test('is the query that the address names, with the values that it gives', () => {
    const seen = drafting('/try?query=newest_in&p.branch=2');
    expect(seen.current.draft.chosen?.name).toBe('newest_in');
    expect(seen.current.draft.values).toEqual({ branch: '2' });
    act(() => seen.current.draft.write('from Loan'));
    expect(seen.current.draft).toMatchObject({ text: 'from Loan', unchanged: false, changed: 'newest_in' });
  });

  test('is told in the address once a person picks it', () => {
    const seen = drafting('/try');
    act(() => seen.current.draft.pick('newest_in'));
    expect(seen.current.address).toBe('?query=newest_in');
    expect(seen.current.draft.chosen?.name).toBe('newest_in');
  });
});
