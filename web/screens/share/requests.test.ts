import { expect, test } from 'vitest';
import type { LiveRequestTold } from '../../../contract/index.js';
import { triedAddress } from './requests.js';

const REQUEST: LiveRequestTold = {
  number: 1,
  at: '2031-04-12T09:00:00.000Z',
  method: 'GET',
  path: '/live/x/loans',
  as: 'Player(2)',
  status: 200,
  milliseconds: 1,
  texts: [],
  log: [{ plain: 'select', milliseconds: 1, rows: 1, values: ['size = 51', 'from = 100'] }],
};

const asked = (text: string, request: Partial<LiveRequestTold> = {}) =>
  Object.fromEntries(new URL(triedAddress('t', text, { ...REQUEST, ...request }), 'http://localhost').searchParams);

test('what a request asked is tried with the page that it asked for', () => {
  expect(asked('from Loan\nlimit :size\noffset :from')).toEqual({ text: 'from Loan\nlimit 51\noffset 100' });
  expect(asked("from Loan\nwhere memo = 'limit :size'\nlimit :size").text).toContain("'limit :size'\nlimit 51");
});

test('a saved query is tried by its name, with its parameters', () => {
  expect(asked('lent_in', { path: '/live/x/queries/lent_in?branch=1' })).toEqual({
    query: 'lent_in',
    'p.branch': '1',
  });
});
