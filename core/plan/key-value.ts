import { anyOf, call, type SqlExpression, string } from '../sql/index.js';

/**
 * A key as one value: a tuple becomes the JSON list of its parts. In a database made elsewhere a part may be a blob,
 * which JSON cannot hold; it then stands there in hexadecimal.
 */
export function keyValue(key: SqlExpression, typesHold: boolean): SqlExpression {
  if (key.kind !== 'tuple') return key;
  const parts = key.items.map(
    (item): SqlExpression =>
      typesHold
        ? item
        : {
            kind: 'case',
            branches: [
              {
                when: { kind: 'binary', operator: '=', left: call('typeof', item), right: string('blob') },
                then: call('hex', item),
              },
            ],
            otherwise: item,
          },
  );
  const list = call('json_array', ...parts);
  // A key with a part that is null points at nothing.
  const when = anyOf(key.items.map((item) => ({ kind: 'is null', operand: item, negated: false })));
  if (when === null) return list;
  return { kind: 'case', branches: [{ when, then: { kind: 'null' } }], otherwise: list };
}
