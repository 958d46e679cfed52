import { describe, expect, test } from 'vitest';
import { parse } from '../notation/index.js';
import { type Relation, type Role, resolve } from './index.js';

const ENTITIES = `entity A
  id    integer key
  name  text(20)

entity B
  id   uuid key
  end  date

entity C
  id  integer key

`;

function resolved(lines: string): {
  relation: Relation | undefined;
  roles: readonly Role[];
  messages: string[];
  weights: string[];
} {
  const { model, findings } = resolve(parse(`${ENTITIES}relation r\n${lines.replace(/^/gm, '  ')}\n`));
  return {
    relation: model.relations.get('r'),
    roles: Array.from(model.entities.values()).flatMap((entity) => entity.roles),
    messages: findings.map((finding) => finding.message),
    weights: findings.map((finding) => finding.weight),
  };
}

describe('which form two sentences make', () => {
  test.each([
    ['A knows one B as b\nB knows many A as as_', 'one-to-many', 'A', 'b_id', true],
    ['A knows at most one B as b\nB knows many A as as_', 'one-to-many', 'A', 'b_id', false],
    ['B knows many A as as_\nA knows one B as b', 'one-to-many', 'A', 'b_id', true],
    ['A knows one B as b', 'one-to-many', 'A', 'b_id', true],
    ['A knows at most one B as owner', 'one-to-many', 'A', 'owner_id', false],
    ['A knows one B as b\nB knows at most one A as a', 'one-to-one', 'A', 'b_id', true],
    ['B knows at most one A as a\nA knows one B as b', 'one-to-one', 'A', 'b_id', true],
    ['A knows at most one B as b\nB knows at most one A as a\nstored in B.a_id', 'one-to-one', 'B', 'a_id', false],
    ['A knows one B as b\nB knows one A as a\nstored in B.a_id', 'one-to-one', 'B', 'a_id', true],
    ['A knows many B as bs\nstored in B.a_key', 'one-to-many', 'B', 'a_key', false],
    ['A knows at most one A as parent\nA knows many A as children', 'one-to-many', 'A', 'parent_id', false],
    [
      'A knows at most one A as next\nA knows at most one A as previous\nstored in A.next_id as next',
      'one-to-one',
      'A',
      'next_id',
      false,
    ],
    [
      'A knows at most one A as next\nA knows at most one A as previous\nstored in A.before as previous',
      'one-to-one',
      'A',
      'before',
      false,
    ],
  ])('%s', (lines, form, child, column, required) => {
    const { relation, messages, weights } = resolved(lines);
    expect(
      weights.filter((weight) => weight === 'error'),
      messages.join('\n'),
    ).toEqual([]);
    expect(relation).toMatchObject({ kind: 'key', form, child, columns: [{ value: column }], required });
  });

  test.each([
    ['A knows many B as bs\nB knows many A as as_', 'many-to-many', ['a_id', 'b_id'], 'r'],
    ['A knows many B as bs\nB knows many A as as_\nstored in table t (x, y)', 'many-to-many', ['x', 'y'], 't'],
    ['A knows many B as bs\nstored in table t', 'many-to-many', ['a_id', 'b_id'], 't'],
    ['A knows many A as followed\nA knows many A as followers', 'many-to-many', ['follower_id', 'followed_id'], 'r'],
    ['A knows many A as partners, both ways', 'symmetric', ['a_id', 'partner_id'], 'r'],
  ])('%s', (lines, form, columns, table) => {
    const { relation, messages } = resolved(lines);
    expect(messages).toEqual([]);
    expect(relation).toMatchObject({ kind: 'pivot', form, table: { value: { name: table } } });
    expect(relation?.kind === 'pivot' && relation.ends.flatMap((end) => end.columns.map((column) => column.value))).toEqual(
      columns,
    );
  });
});

describe('roles', () => {
  test('stand at both ends, each with the way to its rows', () => {
    const { roles } = resolved('A knows one B as b\nB knows many A as as_ order by name desc');
    expect(roles.map(({ entity, name, target, knows, way }) => [entity, name, target, knows, way.kind])).toEqual([
      ['A', 'b', 'B', 'one', 'key'],
      ['B', 'as_', 'A', 'many', 'child'],
    ]);
    expect(roles[1]?.orderBy).toMatchObject([{ descending: true, expression: { kind: 'field', field: 'name' } }]);
  });

  test('of a pivot see it from their own side', () => {
    const { roles } = resolved('A knows many B as bs\nB knows many A as as_');
    expect(roles.map(({ way }) => (way.kind === 'pivot' ? [...way.near, ...way.far] : []))).toEqual([
      ['a_id', 'b_id'],
      ['b_id', 'a_id'],
    ]);
  });

  test('of a single sentence stand at one end only', () => {
    expect(resolved('A knows one B as b').roles.map((role) => role.name)).toEqual(['b']);
    expect(resolved('A knows many A as partners, both ways').roles.map((role) => role.name)).toEqual(['partners']);
  });

  test('of a relation that is wrong stand nowhere', () => {
    expect(resolved('A knows one Z as z\nZ knows many A as as_').roles).toEqual([]);
  });
});

describe('what is wrong with a relation', () => {
  test.each([
    ["note 'x'", 'has no sentence'],
    ['A knows one B as b\nB knows many A as as_\nA knows one C as c', 'more than two sentences'],
    ['A knows one B as b\nB knows many C as cs', 'so the second leads back'],
    ['A knows one B as b\nstored in A.x\nstored in A.y', 'says twice where it is stored'],
    ['A knows one B as b\nstored in C.b_id', 'its key cannot stand in C'],
    ['A knows one B as b\nB knows many A as as_\nstored in table t', 'it is stored in a key column'],
    ['A knows many B as bs', 'nothing says where that is stored'],
    ['A knows many B as bs, both ways', 'both ways is for a single sentence'],
    ['A knows at most one A as next\nA knows at most one A as previous\nstored in A.next_id', 'Say which role the column is for'],
    ['A knows many B as bs\nB knows many A as as_\nstored in table t (x, x)', 'both columns of t would be x'],
    ['A knows many B as bs\nB knows many A as as_\non delete set null', 'neither key can be set null'],
    ['A knows many A as same\nA knows many A as same\nstored in table t (x, y)', 'both roles of A are called same'],
    ['A knows one B as name', 'A.name is a field already'],
    ['A knows one B as b\nB knows many A as as_ order by nothing', 'called nothing'],
  ])('%s: %s', (lines, message) => {
    expect(resolved(lines).messages.join('\n')).toContain(message);
  });

  test.each([
    [
      'A knows many B as bs\nB knows many A as as_\nstored in table t (x, y)\n  n integer\n  m integer column n',
      'has a column n already',
    ],
    ['A knows many B as bs\nB knows many A as as_\nstored in table t (x, y)\n  x text', 'key is integer, but t.x is text'],
    ['A knows many B as bs\nB knows many A as as_\nstored in table t\n  n integer key', 'a pivot’s key is its pair'],
    [
      'A knows many B as bs\nB knows many A as as_\nstored in table t\n  shown as n',
      'a pivot has fields, unique, index, check and kept',
    ],
    [
      'A knows many B as bs\nB knows many A as as_\nstored in table t\n  unique (nothing)',
      'There is no field of t called nothing',
    ],
  ])('%s: %s', (lines, message) => {
    const { messages, relation } = resolved(lines);
    expect(messages.join('\n')).toContain(message);
    // What is wrong below the storage line costs that line only.
    expect(relation?.kind).toBe('pivot');
  });

  test('two relations that share a column or a name are told apart', () => {
    const { findings } = resolve(
      parse(
        `${ENTITIES}relation r\n  A knows one B as b\n\nrelation s\n  A knows one C as c\n  stored in A.b_id\n\nrelation "R"\n  A knows one C as d\n`,
      ),
    );
    expect(findings.map((finding) => finding.code)).toEqual(['column-clash', 'name-clash']);
  });

  test('a promise that no column can hold is a note', () => {
    const { messages, weights } = resolved('A knows one B as b\nB knows one A as a\nstored in A.b_id');
    expect(weights).toEqual(['note']);
    expect(messages[0]).toContain('no column can hold that each B has one');
  });
});
