import { type AnyPivotRelation, holdingsOf, type Model } from '../../model/index.js';
import type { Evidence } from '../row-check.js';
import { evidenceOf } from './questions.js';

/** The keys of a pair: one for each way in which its two sides can stand in the table. */
export function pairKeys(model: Model, relation: AnyPivotRelation): (readonly Evidence[])[] {
  const [near, ...far] = holdingsOf(relation).keys;
  if (near === undefined) return [];
  const ways = far.map((key) => evidenceOf(model, [near, key]));
  const written = ways.map((way) => way.map(({ column }) => column).join('\n'));
  return ways.filter((_, index) => written.indexOf(written[index] ?? '') === index);
}
