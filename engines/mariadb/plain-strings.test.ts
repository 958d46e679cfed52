import { expect, test } from 'vitest';
import { plainStrings } from './plain-strings.js';

test.each([
  [String.raw`(\`sort\` <> 'it\'s 1' or \`a\` is not null)`.replaceAll('\\`', '`'), "(`sort` <> 'it''s 1' or `a` is not null)"],
  [String.raw`a = 'it\'s' and b = '\\' and c = 'x'`, String.raw`a = 'it''s' and b = '\\' and c = 'x'`],
  [String.raw`a in ('\\\'', 'say \"so\"')`, String.raw`a in ('\\''', 'say "so"')`],
  ["a = 'it''s'", "a = 'it''s'"],
])('quotes that stand behind a backslash are doubled: %s', (sql, plain) => {
  expect(plainStrings(sql)).toBe(plain);
});
