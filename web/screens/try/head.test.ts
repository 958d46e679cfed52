import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { readDesign } from '../../../core/design/index.js';
import { designView } from '../../../core/view-models/index.js';
import { headParameters } from './head.js';

const demo = designView(readDesign(readFileSync('demo/library.kin', 'utf8')));

describe('a typed head', () => {
  test('declares parameters as behind a query’s name', () => {
    expect(headParameters('branch Branch, since date optional, y boolean, wanted many Condition', demo)).toEqual([
      { name: 'branch', type: 'Branch', entity: 'Branch', values: null, optional: false, many: false },
      { name: 'since', type: 'date', entity: null, values: null, optional: true, many: false },
      { name: 'y', type: 'boolean', entity: null, values: ['true', 'false'], optional: false, many: false },
      { name: 'wanted', type: 'Condition', entity: null, values: ['mint', 'worn', 'broken'], optional: false, many: true },
    ]);
  });

  test('that does not stand declares none', () => {
    expect(headParameters('', demo)).toEqual([]);
    expect(headParameters('branch', demo)).toEqual([]);
    expect(headParameters(') from x', null)).toEqual([]);
  });
});
