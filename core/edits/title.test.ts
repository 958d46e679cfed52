import { expect, test } from 'vitest';
import { withTitle } from './index.js';

test.each([
  ["tree 'Old'\n  clock '2030-01-01'\n", "tree 'It''s new'\n  clock '2030-01-01'\n"],
  ["-- above\ntree 'Old'\n", "-- above\ntree 'It''s new'\n"],
  ['entity Hall\n  id integer key\n', "tree 'It''s new'\n\nentity Hall\n  id integer key\n"],
])('a title is written into the text, and nothing else of it changes: %j', (text, expected) => {
  expect(withTitle(text, "It's new")).toBe(expected);
});
