import { withArticle } from '../notation/index.js';
import { typeName } from '../values/index.js';
import type { ExpressionType } from './expression.js';

/** A type in words that fit behind “is”. */
export function describeType(type: ExpressionType): string {
  switch (type.kind) {
    case 'row':
      return withArticle(type.entity);
    case 'interval':
      return 'an interval';
    case 'null':
      return 'null';
    case 'integer':
      return 'an integer';
    case 'json':
    case 'bytes':
      return type.kind;
    default:
      return withArticle(typeName(type));
  }
}
