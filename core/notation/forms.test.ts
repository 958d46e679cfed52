import { describe, expect, test } from 'vitest';
import { type Declaration, format, parse, parseQuery } from './index.js';

/** The one declaration of a text, without places. */
function declared(text: string): Record<string, unknown> {
  const { declarations, findings } = parse(text);
  expect(findings.map((finding) => finding.message)).toEqual([]);
  return bare(declarations[0]) as Record<string, unknown>;
}

function bare(value: Declaration | unknown): unknown {
  return JSON.parse(
    JSON.stringify(value, (key, inner: unknown) => {
      if (key === 'span' || key === 'head') return undefined;
      // A name or a text is what it says.
      if (typeof inner === 'object' && inner !== null && 'span' in inner) {
        const keys = Object.keys(inner).filter((candidate) => candidate !== 'span');
        if (keys.length === 1 && 'text' in inner) return inner.text;
        if (keys.length === 1 && 'value' in inner && typeof inner.value === 'string') return inner.value;
      }
      return inner;
    }),
  );
}

/** The only line below a head. */
function lineOf(head: string, line: string): unknown {
  const { lines } = declared(`${head}\n  ${line}\n`) as { lines: unknown[] };
  expect(lines.length).toBe(1);
  return lines[0];
}

describe('every line form is read', () => {
  test.each<[string, unknown]>([
    ["note 'x'", { kind: 'note', text: 'x' }],
    ['actor Player', { kind: 'actor', entity: 'Player' }],
    ["clock '2031-04-12'", { kind: 'clock', text: '2031-04-12' }],
    ['dialect mariadb', { kind: 'dialect', dialect: 'mariadb' }],
    ['tables as stated', { kind: 'tables as stated' }],
    ['references without columns', { kind: 'references without columns' }],
    ["stored bigint as 'INTEGER'", { kind: 'stored type', type: 'bigint', declaration: 'INTEGER' }],
    ["stored text(n) as 'varchar(n)'", { kind: 'stored type', type: 'text(n)', declaration: 'varchar(n)' }],
    ["stored text as 'CLOB'", { kind: 'stored type', type: 'text', declaration: 'CLOB' }],
    ["stored decimal(p, s) as 'NUMERIC(p,s)'", { kind: 'stored type', type: 'decimal(p, s)', declaration: 'NUMERIC(p,s)' }],
    ["kept 'create view v as',\n    'select 1'", { kind: 'kept', sql: ['create view v as', 'select 1'], dialect: null }],
  ])('tree: %s', (line, expected) => {
    expect(lineOf("tree 'T'", line)).toEqual(expected);
  });

  test.each<[string, object]>([
    ['name text(80)', { kind: 'field', name: 'name', type: { kind: 'text', length: 80 }, modifiers: [] }],
    ['price decimal(8, 2) optional', { type: { kind: 'decimal', precision: 8, scale: 2 }, modifiers: [{ kind: 'optional' }] }],
    ["point sql('POINT')", { type: { kind: 'sql', declaration: 'POINT' } }],
    ['state Condition', { type: { kind: 'named', name: 'Condition' } }],
    ['a integer default -3', { modifiers: [{ kind: 'default', value: { kind: 'number', text: '-3' } }] }],
    ["a text in ('S', 'M')", { modifiers: [{ kind: 'in', values: [expect.anything(), expect.anything()] }] }],
    [
      'a timestamp default now, on update now fixed, hidden internal',
      { modifiers: ['default', 'on update now', 'fixed', 'hidden', 'internal'].map((kind) => expect.objectContaining({ kind })) },
    ],
    [
      'a text column "A B" title \'An A\' was old_a',
      {
        modifiers: [
          { kind: 'column', name: 'A B' },
          { kind: 'title', text: 'An A' },
          { kind: 'was', entity: null, name: 'old_a' },
        ],
      },
    ],
    ['id bigint key not null never reused', { modifiers: [{ kind: 'key' }, { kind: 'not null' }, { kind: 'never reused' }] }],
    ['a text collate NOCASE', { modifiers: [{ kind: 'collate', name: 'NOCASE' }] }],
    ["a date stored as 'DATETIME'", { modifiers: [{ kind: 'stored as', declaration: 'DATETIME' }] }],
    ["a text default sql('lower(''X'')')", { modifiers: [{ kind: 'default', value: { kind: 'sql', sql: "lower('X')" } }] }],
    ["a real generated as 'b * 2'", { modifiers: [{ kind: 'generated', sql: 'b * 2', stored: false }] }],
    [
      "a real generated as 'b * 2' stored stored as 'FLOAT'",
      {
        modifiers: [
          { kind: 'generated', stored: true },
          { kind: 'stored as', declaration: 'FLOAT' },
        ],
      },
    ],
    [
      "a real generated as 'b * 2' stored as 'FLOAT'",
      {
        modifiers: [
          { kind: 'generated', stored: false },
          { kind: 'stored as', declaration: 'FLOAT' },
        ],
      },
    ],
    ['unique (a), named Only_one', { kind: 'unique', tail: { named: 'Only_one' } }],
    ['unique (a, b), as index "a b"', { kind: 'unique', tail: { asIndex: 'a b' } }],
    ['index (a), named by_a', { kind: 'index', tail: { named: 'by_a' } }],
    ["check c: a > 1, named c_1, note 'N'", { kind: 'check', tail: { named: 'c_1', note: 'N' } }],
    ['key (a), named the_key', { kind: 'key', tail: { named: 'the_key' } }],
    ['a text was Player.name', { modifiers: [{ kind: 'was', entity: 'Player', name: 'name' }] }],
    ["a text unique message 'M', note 'N'", { tail: { message: 'M', note: 'N' } }],
    ["label = name || '!', note 'N'", { kind: 'derived', name: 'label', note: 'N' }],
    ['uses Dated, Tagged', { kind: 'uses', mixins: ['Dated', 'Tagged'] }],
    ['key (a, b)', { kind: 'key', fields: ['a', 'b'] }],
    ["unique (a, b), message 'M'", { kind: 'unique', fields: ['a', 'b'], tail: { message: 'M', note: null } }],
    ['index (a)', { kind: 'index', fields: ['a'] }],
    ['check c: a > 1', { kind: 'check', name: 'c' }],
    ['rule r: a.b = c.d', { kind: 'rule', name: 'r' }],
    ['shown as name', { kind: 'shown as' }],
    [
      'order by a, b desc',
      {
        kind: 'order by',
        terms: [
          { expression: expect.anything(), descending: false },
          { expression: expect.anything(), descending: true },
        ],
      },
    ],
    ['always load a.b once', { kind: 'always load', once: true }],
    ["kept 'create index x' on sqlite", { kind: 'kept', sql: ['create index x'], dialect: 'sqlite' }],
    ["kept 'create trigger x',\n    'end'", { kind: 'kept', sql: ['create trigger x', 'end'], dialect: null }],
    ['kinds in single table by kind', { kind: 'kinds', storage: { kind: 'single table', column: 'kind' } }],
    ['kinds in joined tables by kind', { storage: { kind: 'joined tables', column: 'kind' } }],
    ['kinds in separate tables', { storage: { kind: 'separate tables' } }],
    ['kinds in json data by kind', { storage: { kind: 'json', json: 'data', column: 'kind' } }],
  ])('entity: %s', (line, expected) => {
    expect(lineOf('entity E', line)).toMatchObject(expected);
  });

  test.each<[string, object]>([
    ['entity E in t', { table: { schema: null, name: 't' } }],
    ['entity E in "my schema".t', { table: { schema: 'my schema', name: 't' } }],
    ["entity E is B marked 'e'", { base: 'B', mark: 'e' }],
    ['entity E abstract given', { abstract: true, given: true }],
    ['entity E was old.e', { was: { schema: 'old', name: 'e' } }],
    ["relation r was q, note 'N'", { kind: 'relation', name: 'r', was: 'q', note: 'N' }],
    [
      'path E.p = a.b[c = 1].d order by x desc first',
      { kind: 'path', entity: 'E', name: 'p', first: true, orderBy: [{ expression: expect.anything(), descending: true }] },
    ],
    ['wall w on write', { kind: 'wall', on: 'write' }],
    [
      'query q(a integer, b Branch optional)',
      {
        parameters: [
          { name: 'a', type: { kind: 'integer' }, optional: false },
          { name: 'b', type: { kind: 'named', name: 'Branch' }, optional: true },
        ],
      },
    ],
    ['query q()', { parameters: [] }],
    ['sample E 400', { entity: 'E', count: 400 }],
    [
      "expect q(1, 'x') as nobody",
      { subject: { kind: 'query', name: 'q', args: [expect.anything(), expect.anything()] }, actor: { kind: 'nobody' } },
    ],
    [
      'expect delete Player(3) as Player(ines)',
      { subject: { kind: 'command', command: { kind: 'delete' } }, actor: { kind: 'row' } },
    ],
    [
      "expect find or create Player[email = 'x'] with name 'I', branch Branch(1) as system",
      { subject: { command: { kind: 'find or create', values: [{ name: 'name' }, { name: 'branch' }] } } },
    ],
    ['expect create or update me.cards[n = 1] with x 2', { subject: { command: { kind: 'create or update' } } }],
    [
      'expect link Player(3).ensembles to Ensemble(2), Ensemble(5) with chair 4',
      { subject: { command: { kind: 'link', others: [expect.anything(), expect.anything()], values: [{ name: 'chair' }] } } },
    ],
    [
      'expect unlink Player(3).ensembles from Ensemble(2)',
      { subject: { command: { kind: 'unlink', others: [expect.anything()] } } },
    ],
    ['expect update Loan[overdue] with due_on today + 7 days', { subject: { command: { kind: 'update' } } }],
  ])('head: %s', (text, expected) => {
    expect(declared(`${text}\n`)).toMatchObject(expected);
  });

  test.each<[string, object]>([
    ["A knows one B as b, note 'N'", { subjects: ['A'], knows: 'one', targets: ['B'], role: 'b', note: 'N' }],
    ['A knows at most one B | C as b', { knows: 'at most one', targets: ['B', 'C'] }],
    [
      'each knows many B as bs order by x desc',
      { subjects: null, knows: 'many', orderBy: [{ expression: expect.anything(), descending: true }] },
    ],
    ['A knows many A as r, both ways', { bothWays: true }],
    ['stored in A.b_id', { store: { kind: 'column', entity: 'A', column: 'b_id', role: null } }],
    ['stored in A.b_id as b', { store: { kind: 'column', role: 'b' } }],
    ['stored in A.(x, y)', { store: { kind: 'composite', entity: 'A', columns: ['x', 'y'] } }],
    ['stored in A.x_type with A.x_id', { store: { kind: 'typed', entity: 'A', type: 'x_type', id: 'x_id' } }],
    [
      'stored in one of A.b_id, A.c_id',
      {
        store: {
          kind: 'one of',
          columns: [
            { entity: 'A', column: 'b_id' },
            { entity: 'A', column: 'c_id' },
          ],
        },
      },
    ],
    [
      'stored in table t (a_id, b_type with b_id) repeats',
      {
        store: {
          kind: 'table',
          columns: [
            { kind: 'column', name: 'a_id' },
            { kind: 'typed', type: 'b_type', id: 'b_id' },
          ],
        },
        repeats: true,
      },
    ],
    [
      'stored in table t ((x, y), b_id) given',
      {
        store: {
          columns: [
            { kind: 'composite', names: ['x', 'y'] },
            { kind: 'column', name: 'b_id' },
          ],
        },
        given: true,
      },
    ],
    ['stored in Seat (player, ensemble)', { store: { kind: 'entity', entity: 'Seat', roles: ['player', 'ensemble'] } }],
    ['stored in A.x_type with A.x_id without triggers was old', { withoutTriggers: true, was: { name: 'old' } }],
    ['on delete set null', { kind: 'on delete', rule: 'set null' }],
    ['on update no action', { kind: 'on update', rule: 'no action' }],
  ])('relation: %s', (line, expected) => {
    expect(lineOf('relation r', line)).toMatchObject(expected);
  });

  test('below a storage line stand a pivot’s fields, or marks', () => {
    const { lines } = declared('relation r\n  stored in table t (a, b)\n    chair integer\n    unique (chair)\n') as {
      lines: { lines: unknown[] }[];
    };
    expect(lines[0]?.lines.length).toBe(2);
    const marked = declared("relation r\n  stored in A.t with A.i\n    Hive marked 'h'\n") as { lines: { marks: unknown[] }[] };
    expect(marked.lines[0]?.marks).toEqual([{ entity: 'Hive', mark: 'h' }]);
  });

  test.each<[string, object]>([
    ['from Loan', { kind: 'from', entity: 'Loan' }],
    ['where a = 1', { kind: 'where' }],
    ['having sum(kg) > 100', { kind: 'having' }],
    [
      'load (last as Treatment).treater by join',
      { kind: 'load', by: 'join', path: { root: { kind: 'cast', entity: 'Treatment' } } },
    ],
    [
      'load a[b > 1] (x, y.z) where c order by d limit 3 by row',
      { kind: 'load', by: 'row', limit: expect.anything(), fields: [expect.anything(), expect.anything()] },
    ],
    ['show a.b as c, count(*) as n', { kind: 'show', items: [{ as: 'c' }, { as: 'n' }] }],
    ['group by a.b, c', { kind: 'group by' }],
    ['order by a desc, b', { kind: 'order by' }],
    ['limit :n', { kind: 'limit', amount: { kind: 'parameter', name: 'n' } }],
    ['offset 40', { kind: 'offset' }],
    ['lift own', { kind: 'lift', wall: 'own' }],
    ['reads a.b, c', { kind: 'reads' }],
    ['first', { kind: 'first' }],
    ['show distinct a.b', { kind: 'show', distinct: true, items: [{ as: null, written: 'a.b' }] }],
    ['show distinct, a', { kind: 'show', distinct: false, items: [{ written: 'distinct' }, { written: 'a' }] }],
    ['exists', { kind: 'exists' }],
  ])('query: %s', (line, expected) => {
    const { lines, findings } = parseQuery(line);
    expect(findings).toEqual([]);
    expect(bare(lines[0])).toMatchObject(expected);
  });

  test.each<[string, object]>([
    [
      "north: name 'N', branch Branch(x), n -3",
      { kind: 'row', name: 'north', values: [{ name: 'name' }, { name: 'branch' }, { name: 'n' }] },
    ],
    ['branch any Branch, or null 10%', { kind: 'generator', member: 'branch', generator: { kind: 'any', nullShare: 10 } }],
    ["d between '2031-01-01' and today - 3 days", { generator: { kind: 'between', nullShare: 0 } }],
    ['loans 0 to 12 each', { generator: { kind: 'each', least: 0, most: 12 } }],
    ["c 'worn' 20%, 'mint', null", { generator: { kind: 'values', values: [{ share: 20 }, { share: null }, { share: null }] } }],
  ])('sample: %s', (line, expected) => {
    expect(lineOf('sample E', line)).toMatchObject(expected);
  });

  test.each<[string, object]>([
    ['rows 4', { kind: 'rows', bound: 'exactly', count: 4 }],
    ['rows at least 10', { bound: 'at least' }],
    ['statements at most 3', { kind: 'statements', bound: 'at most' }],
    ['every row a = 1', { kind: 'every row' }],
    ['no row a = 1', { kind: 'no row' }],
    ['refused', { kind: 'refused' }],
  ])('expect: %s', (line, expected) => {
    expect(lineOf('expect q', line)).toMatchObject(expected);
  });

  test.each<[string, object]>([
    ['Player where a', { kind: 'where', entity: 'Player' }],
    ['unless me.steward', { kind: 'unless' }],
    ['pin Player.branch to me.branch', { kind: 'pin', entity: 'Player', member: 'branch' }],
  ])('wall: %s', (line, expected) => {
    expect(lineOf('wall w', line)).toMatchObject(expected);
  });
});

describe('expressions', () => {
  const kindOf = (text: string): string => {
    const [line] = parseQuery(`where ${text}`).lines;
    return line?.kind === 'where' ? line.condition.kind : '';
  };

  test.each([
    ["'it''s'", 'text'],
    ['2.5', 'number'],
    ['7 days', 'interval'],
    ['today', 'today'],
    [':p', 'parameter'],
    ['a.b[c].d', 'path'],
    ['Branch(1)', 'path'],
    ['me.branch', 'path'],
    ['count(a[b])', 'call'],
    ['count(*)', 'call'],
    ['a is not null', 'is null'],
    ['a is a Player', 'is a'],
    ['a is not an Ensemble', 'is a'],
    ['a not in (1, 2)', 'in'],
    ['a not between 1 and 2', 'between'],
    ["a not like 'x'", 'like'],
    ['case when a then b else c end', 'case'],
    ['not a', 'not'],
    ['- a', 'negate'],
    ['(a or b)', 'binary'],
    ['(x as Y).z', 'path'],
  ])('%s is %s', (text, kind) => {
    expect(kindOf(text)).toBe(kind);
  });

  test.each([
    ['where a is', 'Expected null or an entity'],
    ['where case end', 'Expected when after case'],
    ['where a in 1', 'Expected “(” after in'],
    ['where a between 1', 'Expected and between the two bounds'],
    ['where (a', 'never closed'],
    ['where a b', 'b does not fit here'],
    ["where 'open", 'a quote that is not closed'],
    ['where null.x', 'does not fit'],
    ['limit', 'Expected a field, a role or a value'],
    ['load 3', 'Expected a field, a role or a value'],
    ['load a by magic', 'Expected batch, join, json, row after by'],
    ['frm Loan', 'Expected a line of a query'],
  ])('%s is told: %s', (text, message) => {
    expect(
      parseQuery(text)
        .findings.map((finding) => finding.message)
        .join('\n'),
    ).toContain(message);
  });
});

describe('the one form', () => {
  test.each([
    ['where a=1 and b<>-2', 'where a = 1 and b <> -2'],
    ['where  count( loans [overdue] )>2', 'where count(loans[overdue]) > 2'],
    ["where x||'a'  like:p", "where x || 'a' like :p"],
    ['limit:n', 'limit :n'],
    ['where f(:a) = g( :b )', 'where f(:a) = g(:b)'],
    ['load borrower(name,id)', 'load borrower (name, id)'],
    ['load  a . b', 'load a.b'],
    ['where Branch( 1 ) = b', 'where Branch(1) = b'],
    ['where a in(1,2)', 'where a in (1, 2)'],
  ])('%s', (loose, formed) => {
    expect(format(`query q\n  from E\n  ${loose}\n`)).toBe(`query q\n  from E\n  ${formed}\n`);
  });

  test('a share keeps its sign, a remainder its spaces', () => {
    expect(format("sample E\n  c 'a' 20 %,'b' 30%\n")).toContain("c 'a' 20%, 'b' 30%");
    expect(format('entity E\n  check x: a%2 = 1\n')).toContain('a % 2 = 1');
  });

  test('a colon behind a name labels it', () => {
    expect(format("sample E\n  north :name 'N'\n")).toContain("north: name 'N'");
    expect(format('entity E\n  check x :a > 1\n')).toContain('check x: a > 1');
  });

  test('columns and lengths', () => {
    expect(format('entity E\n  name text( 80 )\n  price decimal(8,2)\n  unique(a,b)\n')).toBe(
      'entity E\n  name   text(80)\n  price  decimal(8, 2)\n  unique (a, b)\n',
    );
    expect(format('relation r\n stored in table seats(a,b)\n')).toContain('stored in table seats (a, b)');
  });
});
