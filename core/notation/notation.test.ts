import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { format, nearest, parse, parseQuery, positions, withArticle } from './index.js';

const apiary = readFileSync('tests/apiary.kin', 'utf8');
const sample = readFileSync('tests/notation-sample.kin', 'utf8');
const demo = readFileSync('demo/library.kin', 'utf8');

/** What a text says, without the places where it says it. */
function meaning(text: string): string {
  return JSON.stringify(parse(text).declarations, (key, value: unknown) =>
    key === 'span' || key === 'head' ? undefined : value,
  );
}

describe('reading a text', () => {
  test.each([
    ['the apiary', apiary],
    ['the sample of the notation', sample],
    ['the demo', demo],
  ])('%s has no error', (_name, text) => {
    expect(parse(text).findings).toEqual([]);
  });

  test('every declaration and line has its place in the text', () => {
    for (const declaration of parse(apiary).declarations) {
      expect(apiary.slice(declaration.span.start)).toMatch(new RegExp(`^${declaration.kind}`));
      if (declaration.kind === 'entity') {
        for (const line of declaration.lines) {
          if (line.kind === 'field')
            expect(apiary.slice(line.name.span.start, line.name.span.end).replaceAll('"', '')).toBe(line.name.text);
        }
      }
    }
  });

  test('operators bind as in SQL: or, and, not, comparison, ||, + -, * /', () => {
    const [line] = parseQuery("where a = 1 or not b < 2 + 3 * 4 and c || 'x' like 'y'").lines;
    const shape = JSON.stringify(line, (key, value: unknown) => (key === 'span' ? undefined : value));
    expect(shape).toMatch(/"operator":"or".*"kind":"not".*"operator":"<".*"operator":"\+".*"operator":"\*"/);
    expect(line?.kind === 'where' && line.condition.kind === 'binary' && line.condition.operator).toBe('or');
  });

  test('comparisons do not chain', () => {
    expect(parseQuery('where 1 < a < 3').findings[0]?.message).toContain('do not chain');
  });

  test('a field named like the first word of a line is quoted, and said so by reading it', () => {
    const { declarations, findings } = parse('entity Hive\n  id integer key\n  "index" integer\n  "order" text\n');
    expect(findings).toEqual([]);
    expect(declarations[0]?.kind === 'entity' && declarations[0].lines.map((line) => line.kind)).toEqual([
      'field',
      'field',
      'field',
    ]);
  });

  test('loads nest by their indentation', () => {
    const { lines } = parseQuery('from Loan\nload borrower (name)\n  branch\n    players\n  mentor\nload instrument');
    const paths = (loads: typeof lines): unknown =>
      loads.flatMap((line) =>
        line.kind === 'load' ? [[line.path.root.kind === 'name' ? line.path.root.name.text : '', paths(line.loads)]] : [],
      );
    expect(paths(lines)).toEqual([
      [
        'borrower',
        [
          ['branch', [['players', []]]],
          ['mentor', []],
        ],
      ],
      ['instrument', []],
    ]);
  });
});

describe('errors stay where they are', () => {
  const lines = apiary.split('\n');

  test('a body line that cannot be read costs no other line', () => {
    const whole = parse(apiary).declarations;
    lines.forEach((line, index) => {
      if (!/^ +\S/.test(line) || /^ +(stored|load|keeper \(|helpers \()/.test(line)) return;
      const broken = [...lines];
      broken[index] = `${/^ */.exec(line)?.[0]}] ) ?? (`;
      const { declarations, findings } = parse(broken.join('\n'));
      expect(findings.length, `line ${index + 1}`).toBeGreaterThan(0);
      expect(
        declarations.map((declaration) => declaration.kind),
        `line ${index + 1}`,
      ).toEqual(whole.map((declaration) => declaration.kind));
      const count = (all: typeof whole) =>
        all.reduce((sum, declaration) => sum + ('lines' in declaration ? declaration.lines.length : 0), 0);
      expect(count(declarations), `line ${index + 1}: ${line}`).toBeGreaterThanOrEqual(count(whole) - 1);
    });
  });

  test('an open bracket ends at the first line that is not deeper than its own', () => {
    const { declarations, findings } = parse(
      'entity Hive\n  id integer key\n  code text(10\n  built date\n\nentity Site\n  id integer key\n',
    );
    expect(findings.map((finding) => finding.code)).toContain('open-bracket');
    expect(declarations.map((declaration) => declaration.kind)).toEqual(['entity', 'entity']);
    expect(declarations[0]?.kind === 'entity' && declarations[0].lines.length).toBeGreaterThanOrEqual(2);
  });

  test('a quote that is not closed ends with its line', () => {
    const { declarations } = parse("entity Hive\n  note 'never closed\n  id integer key\n\nentity Site\n  id integer key\n");
    expect(declarations.length).toBe(2);
    expect(declarations[0]?.kind === 'entity' && declarations[0].lines.length).toBe(1);
  });

  test('a line at column one that is no declaration costs that line only', () => {
    const { declarations, findings } = parse('entity Hive\n  id integer key\nwhatever this is\n  code text(10)\n');
    expect(findings.length).toBe(1);
    expect(declarations[0]?.kind === 'entity' && declarations[0].lines.length).toBe(2);
  });

  test('a misspelt keyword is read as the nearest one, with a fix', () => {
    const { declarations, findings } = parse('entitty Hive\n  id integer key\n');
    expect(declarations[0]?.kind).toBe('entity');
    expect(findings[0]?.fixes[0]?.edits[0]?.text).toBe('entity');
  });

  test('a tab in the indentation is an error with a fix that makes it right', () => {
    const text = 'entity Hive\n\tid integer key\n';
    const { findings } = parse(text);
    const edit = findings[0]?.fixes[0]?.edits[0];
    expect(findings[0]?.code).toBe('tab-indentation');
    expect(edit && parse(text.slice(0, edit.span.start) + edit.text + text.slice(edit.span.end)).findings).toEqual([]);
  });

  test('a field stands though one of its modifiers is not understood', () => {
    const { declarations, findings } = parse('entity Hive\n  code text(10) uniqe\n');
    expect(findings[0]?.message).toContain('Did you mean unique?');
    expect(declarations[0]?.kind === 'entity' && declarations[0].lines.length).toBe(1);
  });

  test('a field named like the first word of a line is told to be quoted', () => {
    expect(parse('entity Loan\n  note text(80)\n').findings[0]?.message).toContain('A field of that name is written "note"');
  });

  test('a name starts with a small letter or a capital, and the message says which', () => {
    expect(parse('entity hive\n').findings[0]?.message).toContain('start with a capital');
    expect(parse('scope Overdue\n').findings[0]?.message).toContain('start with a small letter');
  });
});

describe('one form for all', () => {
  test.each([
    ['the apiary', apiary],
    ['the sample of the notation', sample],
    ['the demo', demo],
  ])('formatting %s keeps what it says, and twice changes nothing more', (_name, text) => {
    const once = format(text);
    expect(meaning(once)).toBe(meaning(text));
    expect(format(once)).toBe(once);
  });

  test('comments, the order of lines and breaks inside a line stay', () => {
    const text =
      '-- above\nentity Hive   in hives   -- beside\n   id integer key\n   -- between\n   built   date\n\n\n\nquery q\n  from Hive\n  reads id,\n      built\n';
    expect(format(text)).toBe(
      '-- above\nentity Hive in hives  -- beside\n  id     integer key\n  -- between\n  built  date\n\nquery q\n  from Hive\n  reads id,\n    built\n',
    );
  });
});

describe('nothing throws and nothing hangs', () => {
  /** A small generator of numbers, the same on each run. */
  function numbers(seed: number): (below: number) => number {
    let state = seed;
    return (below) => {
      state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
      return Math.floor((state / 2 ** 32) * below);
    };
  }

  test('100,000 mutated texts are read and formatted to an end', () => {
    const next = numbers(42);
    const blocks = [apiary, sample].flatMap((text) => text.split(/\n\n+/));
    const inserts = [
      '(',
      ')',
      '[',
      ']',
      "'",
      '"',
      '\n',
      '  ',
      '\t',
      ':',
      '.',
      ',',
      ' key ',
      ' knows ',
      '--',
      '\0',
      '\u{1F40E}',
      ' not ',
      '-',
      '||',
      'case when ',
      '9',
    ];
    for (let round = 0; round < 100_000; round++) {
      let text = blocks[next(blocks.length)] ?? '';
      for (let change = next(4); change >= 0; change--) {
        const at = next(text.length + 1);
        const sort = next(3);
        if (sort === 0) text = text.slice(0, at) + (inserts[next(inserts.length)] ?? '') + text.slice(at);
        else if (sort === 1) text = text.slice(0, at) + text.slice(at + 1 + next(8));
        else text = text.slice(0, at) + text.slice(next(text.length + 1)).slice(0, 30) + text.slice(at);
      }
      const { findings, colours } = parse(text);
      for (const { span } of findings)
        if (span.start < 0 || span.end > text.length || span.start > span.end)
          throw new Error(`a finding out of place in ${JSON.stringify(text)}`);
      if (colours.some(({ span }) => span.end > text.length)) throw new Error('a colour out of place');
      if (round % 10 === 0) format(text);
    }
  }, 600_000);

  test.each([
    ['brackets', `query q\n  from Loan\n  where ${'('.repeat(100_000)}`],
    ['negations', `query q\n  from Loan\n  where ${'not '.repeat(100_000)}a`],
    ['a chain', `query q\n  from Loan\n  where ${'a or '.repeat(100_000)}a`],
    ['indentation', Array.from({ length: 1500 }, (_, depth) => `${' '.repeat(depth)}x`).join('\n')],
  ])('a depth of %s that no person writes is told, not fallen over', (_name, text) => {
    expect(parse(text).findings.length).toBeGreaterThan(0);
    expect(() => format(text)).not.toThrow();
  });
});

test('offsets become lines and columns counted from one', () => {
  const at = positions('ab\ncd\n');
  expect([at(0), at(3), at(4)]).toEqual([
    { line: 1, column: 1 },
    { line: 2, column: 1 },
    { line: 2, column: 2 },
  ]);
});

test('the nearest name is one that could be meant, or none', () => {
  expect(nearest('borower', ['borrower', 'branch'])).toBe('borrower');
  expect(nearest('recieved', ['received'])).toBe('received');
  expect(nearest('xyz', ['borrower'])).toBeNull();
});

test('a noun is told behind the article that it is spoken with', () => {
  expect(['Ensemble', 'Player', 'Unit', 'User', 'Hour', 'Uninvited', 'One', 'Umpire', 'unit of text'].map(withArticle)).toEqual([
    'an Ensemble',
    'a Player',
    'a Unit',
    'a User',
    'an Hour',
    'an Uninvited',
    'a One',
    'an Umpire',
    'a unit of text',
  ]);
});

describe('a word that the notation does not have', () => {
  const first = (text: string) => {
    const [finding] = parse(text).findings;
    return { message: finding?.message ?? '', fix: finding?.fixes[0]?.edits[0]?.text ?? null };
  };

  test.each([
    ['int', 'integer'],
    ['strng', 'text'],
    ['varchar(20)', 'text'],
    ['bool', 'boolean'],
    ['datetime', 'timestamp'],
    ['intger', 'integer'],
    ['jsonb', 'json'],
  ])('as a type, %s, is told with what it is called here, and mended', (written, type) => {
    const { message, fix } = first(`entity Loan\n  a  ${written}\n`);
    expect(message).toContain(`Did you mean ${type}?`);
    expect(fix).toBe(type);
  });

  test('is told with the nearest that fits its place', () => {
    expect(first('query q\n  frm Loan\n').fix).toBe('from');
    expect(first("tree 'T'\n  dialct sqlite\n").fix).toBe('dialect');
    expect(first('entity Loan\n  a  text optinal\n').fix).toBe('optional');
    expect(first('relation r\n  Loan knows one Player as p\n  on delete cascad\n').fix).toBe('cascade');
    expect(first('entity Loan\n  a  text somethingelse\n').fix).toBeNull();
  });

  test('in double quotes where a text is meant gets single ones', () => {
    const { message, fix } = first('entity Loan\n  a  text default "it\'s"\n');
    expect(message).toContain('a text stands in single quotes');
    expect(fix).toBe("'it''s'");
  });
});
