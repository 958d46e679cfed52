import { readFileSync } from 'node:fs';
import { expect, test } from 'vitest';
import { valuesDocument } from './values.js';

test('the table of values says what the code does; npm run values renews it', () => {
  expect(readFileSync('docs/values.md', 'utf8')).toBe(valuesDocument());
});
