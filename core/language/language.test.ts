import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { readDesign } from '../design/index.js';
import type { Span } from '../notation/index.js';
import { complete, completeCondition, completeOrder, completeQuery, definitionOf, hover, nameAt, usesOf } from './index.js';

const text = readFileSync('demo/library.kin', 'utf8');
const demo = readDesign(text);

/** What fits where the bar stands, written behind the demo's text. */
function offered(lines: string, before = text): string[] {
  const offset = before.length + 1 + lines.indexOf('|');
  const whole = `${before}\n${lines.replace('|', '')}`;
  return complete(readDesign(whole), whole, offset).options.map(({ label }) => label);
}

const inQuery = (written: string, head = '') =>
  completeQuery(demo, written.replace('|', ''), head, written.indexOf('|')).options.map(({ label }) => label);

describe('completion offers what fits', () => {
  test('at the first column, the declarations', () => {
    expect(offered('|')).toEqual(expect.arrayContaining(['entity', 'relation', 'scope', 'query', 'sample']));
    expect(offered('|')).not.toContain('cascade');
  });

  test('behind a field’s name its type, behind the type its modifiers', () => {
    expect(offered('entity Shelf\n  label |')).toEqual(expect.arrayContaining(['text', 'integer', 'Condition']));
    expect(offered('entity Shelf\n  label text(4) |')).toEqual(expect.arrayContaining(['optional', 'unique', 'default']));
    expect(offered('entity Shelf\n  label text(4) optional |')).not.toContain('optional');
    expect(offered('entity Shelf\n  state Condition default |')).toEqual(["'mint'", "'worn'", "'broken'"]);
  });

  test('in a check the entity’s own members, behind a role those of its target', () => {
    const check = (body: string) => offered(`entity Shelf\n  id integer key\n  label text(4)\n  rule r: ${body}`);
    expect(check('|')).toEqual(expect.arrayContaining(['label', 'id', 'any', 'today']));
    expect(check('|')).not.toContain('due_on');
    expect(check('label |')).toEqual(expect.arrayContaining(['and', 'is null']));
  });

  test('in a relation entities, sentences and rules, each in its place', () => {
    expect(offered('relation r\n  |')).toEqual(expect.arrayContaining(['Branch', 'on delete', 'stored in']));
    expect(offered('relation r\n  Loan |')).toEqual(['knows one', 'knows at most one', 'knows many', '|']);
    expect(offered('relation r\n  Loan knows at |')).toEqual(['most one']);
    expect(offered('entity Shelf\n  code text\n  key (|')).toContain('code');
    expect(offered('relation r\n  Loan knows many |')).toContain('Player');
    expect(offered('relation r\n  Loan knows many Player as |')).toEqual(['players']);
    expect(offered('relation r\n  Loan knows one Player as |')).toEqual(['player']);
    expect(offered('relation r\n  on delete |')).toEqual(expect.arrayContaining(['cascade', 'set null']));
  });

  test('in a scope the entity that its line begins with', () => {
    expect(offered('scope s\n  Loan where |')).toEqual(expect.arrayContaining(['borrower', 'due_on', 'overdue']));
    expect(offered('scope s\n  Loan where borrower.|')).toEqual(expect.arrayContaining(['name', 'branch']));
    expect(offered('scope s\n  Loan where borrower.branch.|')).toContain('town');
    expect(offered('scope s\n  Player where any(loans[|')).toContain('returned_on');
    expect(offered('scope s\n  Player where any(loans[overdue]) and |')).toContain('steward');
  });

  test('in a wall what a scope has there, and what belongs to whoever is at work', () => {
    const acted = text.replace('\n', '\n  actor Player\n');
    const wall = (line: string) => offered(`wall w on read\n  ${line}`, acted);
    expect(offered('|')).toContain('wall');
    expect(offered('wall w |')).toEqual(['on read', 'on write']);
    expect(wall('|')).toEqual(expect.arrayContaining(['Loan', 'unless', 'pin']));
    expect(wall('Loan where borrower.|')).toEqual(expect.arrayContaining(['name', 'branch']));
    expect(wall('Loan where borrower = |')).toContain('me');
    expect(wall('Loan where borrower.branch = me.|')).toEqual(expect.arrayContaining(['branch', 'steward']));
    expect(wall('unless me.|')).toContain('steward');
    expect(wall('pin Loan.|')).toContain('borrower');
    expect(wall('pin Loan.borrower |')).toContain('to');
  });

  test('behind “in” a list of values, or the parameter that holds one', () => {
    expect(inQuery('from Instrument\nwhere condition in |', 'wanted many Condition')).toEqual(
      expect.arrayContaining([':wanted']),
    );
  });

  test('in a query parameters, loads and their fields', () => {
    expect(offered('query q(branch Branch)\n  from Loan\n  where borrower.branch = |')).toContain(':branch');
    expect(offered('query q\n  from Player\n  load |')).toEqual(expect.arrayContaining(['loans', 'branch', 'ensembles']));
    expect(offered('query q\n  from Player\n  load loans\n    |')).toEqual(expect.arrayContaining(['borrower', 'instrument']));
    expect(inQuery('from Player\nload loans (|')).toEqual(expect.arrayContaining(['due_on', 'id']));
    expect(inQuery('from Ensemble\nload players (|')).toContain('seats.chair');
    // Of every entity that the role leads to.
    expect(inQuery('from Remark\nload subject (|')).toEqual(
      expect.arrayContaining(['condition', 'seats', 'founded_on'].filter((name) => text.includes(name))),
    );
    expect(inQuery("from Loan\nwhere due_on between '2031-01-01' |")).toEqual(['and']);
    expect(inQuery('from Player\nload loans where |')).toContain('overdue');
    expect(inQuery('from Player\nload loans order by |')).toContain('due_on');
    expect(inQuery('from Loan\nwhere |', 'since date')).toContain(':since');
    expect(inQuery('from Instrument\nwhere condition = |')).toEqual(expect.arrayContaining(["'mint'", "'worn'"]));
  });

  test('in a flat query what can be shown, grouped by, and put in order by its name', () => {
    expect(inQuery('from Loan\n|')).toEqual(expect.arrayContaining(['show', 'group by', 'having', 'exists']));
    expect(inQuery('from Loan\nshow |')).toEqual(expect.arrayContaining(['due_on', 'borrower', 'sum', 'distinct']));
    expect(inQuery('from Loan\nshow borrower.|')).toContain('name');
    expect(inQuery('from Loan\nshow due_on, sum(borrower.loans.|')).toContain('due_on');
    expect(inQuery('from Loan\ngroup |')).toEqual(['by']);
    expect(inQuery('from Loan\ngroup by |')).toContain('borrower');
    expect(inQuery('from Loan\nshow count(*) as often\norder by |')).toContain('often');
    expect(inQuery('from Loan\nshow count(*) as often\nhaving |')).toContain('often');
    expect(inQuery('from Player\nload loans |')).toEqual(['where', 'order by', 'limit', 'first', 'one', 'by']);
    expect(inQuery('from Player\nload loans limit 3 by |')).toEqual(['batch', 'join', 'json', 'row']);
  });

  test('in a query on one line, as if it stood in lines', () => {
    expect(inQuery('from Player; |')).toEqual(expect.arrayContaining(['where', 'load', 'limit']));
    expect(inQuery('from Player; where steward; load |')).toEqual(expect.arrayContaining(['loans', 'branch', 'ensembles']));
  });

  test('where rows are narrowed, only what they can be', () => {
    const kinds = ['StringInstrument', 'WindInstrument'];
    const targets = ['Instrument', 'StringInstrument', 'WindInstrument', 'Ensemble', 'Hall'];
    expect(inQuery('from Loan\nwhere instrument is a |').sort()).toEqual(kinds);
    expect(inQuery('from Loan\nwhere (instrument as |').sort()).toEqual(kinds);
    expect(inQuery('from Instrument\nwhere is a |').sort()).toEqual(kinds);
    expect(inQuery('from Loan\nwhere any(instrument.loans) and instrument[is not a |').sort()).toEqual(kinds);
    expect(inQuery('from Remark\nwhere subject is not an |').sort()).toEqual(targets.toSorted());
    expect(inQuery('from Remark\nload (subject as |').sort()).toEqual(targets.toSorted());
    expect(inQuery('from Remark\nwhere (subject as Hall).|')).toContain('seats');
    expect(inQuery('from Loan\nload (instrument as StringInstrument).|')).toContain('strung_by');
    expect(offered('path Player.fiddles = (loans.instrument as |').sort()).toEqual(kinds);
    expect(offered('sample Remark 5\n  subject any |').sort()).toEqual(['Ensemble', 'Hall', 'Instrument']);
  });

  test('in samples members, rows and generators', () => {
    expect(offered('sample Loan 5\n  |')).toEqual(expect.arrayContaining(['due_on', 'borrower']));
    expect(offered('sample Loan 5\n  borrower |')).toContain('any Player');
    expect(offered('sample Player\n  x: branch |')).toContain('Branch(north)');
    expect(offered("sample Loan 5\n  due_on between '2031-01-01' |")).toEqual(['and']);
  });

  test('in a filter and an order of their own', () => {
    const filter = 'borrower.';
    expect(completeCondition(demo, 'Loan', filter, filter.length).options.map(({ label }) => label)).toContain('email');
    expect(completeOrder(demo, 'Loan', 'due_on ', 7).options.map(({ label }) => label)).toEqual(['desc']);
  });

  test('nothing inside a literal or a comment', () => {
    expect(offered("tree 'a |")).toEqual([]);
    expect(offered('-- a |')).toEqual([]);
  });

  test('what is chosen replaces the letters that stand there', () => {
    const written = 'from Loan\nwhere borr';
    expect(completeQuery(demo, written, '', written.length).span).toEqual({ start: 16, end: 20 });
  });
});

describe('names', () => {
  const at = (piece: string, shift = 0) => text.indexOf(piece) + shift;

  test('mean what they stand for, and are found wherever they are used', () => {
    const overdue = nameAt(demo, at('where overdue and', 6));
    expect(overdue?.thing).toEqual({ kind: 'scope', owner: '', name: 'overdue' });
    if (overdue === null) return;
    expect(usesOf(demo, overdue.thing).length).toBe(2);
    const definition = definitionOf(demo, overdue.thing);
    expect(text.slice(definition?.start, definition?.end)).toBe('overdue');
    expect(definition?.start).toBe(at('scope overdue', 6));
  });

  test('of one spelling and two owners are told apart', () => {
    const branchOfPlayer = nameAt(demo, at('borrower.branch = :branch', 9));
    expect(branchOfPlayer?.thing).toEqual({ kind: 'role', owner: 'Player', name: 'branch' });
    const name = nameAt(demo, at('load borrower (name', 15));
    expect(name?.thing).toEqual({ kind: 'field', owner: 'Player', name: 'name' });
  });

  test('tell their sentence and their storage', () => {
    expect(hover(demo, at('as borrower', 3))?.lines).toEqual([
      'A Loan knows one Player as borrower.',
      expect.stringMatching(/^Stored in loans\.borrower_id → players\.id, not null, by convention/),
      'relation borrowing, one-to-many',
      expect.stringMatching(/^Used by .*query overdue_by_branch/),
    ]);
    expect(hover(demo, at('entity Loan', 7))?.lines[0]).toBe('Loan: table loans, stated.');
    expect(hover(demo, at('wall own_remarks', 6))?.lines).toEqual([
      'All read them; only who wrote one changes it.',
      'Of Remark only rows where author = me are changed.',
      'A new Remark has me as its author, and nobody gives it another.',
    ]);
    expect(hover(demo, at('chair  integer'))?.lines).toEqual([
      'chair: integer, required.',
      'Stored in seats.chair, by convention.',
      'Used by relation seating, query concert_programme, query thin_ensembles.',
    ]);
    expect(hover(demo, at('-- Where things'))).toBeNull();
  });
});

describe('commands are completed, in an expectation and where they are tried', () => {
  const offered = (text: string) => completeQuery(demo, text, '', text.length).options.map(({ label }) => label);

  test.each([
    ['create ', ['or update', 'Loan'], ['borrower']],
    ['find ', ['or create'], ['Loan']],
    ['create Loan with ', ['due_on', 'borrower'], ['Loan', 'overdue']],
    ["create Loan with due_on '2031-05-03', ", ['borrower'], ['Loan']],
    ['create Loan with borrower ', ['Player(ines)', 'Player'], ['due_on']],
    ['create Player(3).', ['loans', 'name'], ['Loan']],
    ['create Player(3).loans with ', ['due_on', 'instrument'], ['email']],
    ['update Loan[', ['overdue', 'due_on'], ['email']],
    ['link Player(3).ensembles ', ['to'], ['from', 'chair']],
    ['link Player(3).ensembles to ', ['Ensemble'], ['chair']],
    ['link Player(3).ensembles to Ensemble(2) with ', ['chair', 'since'], ['name']],
    ['unlink Player(3).ensembles ', ['from'], ['to']],
    ['delete ', ['Loan'], ['or update']],
    ['delete Player(', ['ines'], ['Player']],
  ])('%s', (text, some, none) => {
    const labels = offered(text);
    expect(some.filter((label) => !labels.includes(label))).toEqual([]);
    expect(none.filter((label) => labels.includes(label))).toEqual([]);
  });

  test('and what is expected of a query, or of a command', () => {
    const behind = (lines: string) => {
      const text = `${demo.text.trimEnd()}\n\n${lines}`;
      return complete(demo, text, text.length).options.map(({ label }) => label);
    };
    expect(behind('expect ')).toEqual(expect.arrayContaining(['overdue_by_branch', 'create', 'delete']));
    expect(behind('expect overdue_by_branch(')).toContain('Branch');
    expect(behind('expect unstrung as ')).toContain('system');
    expect(behind('expect unstrung\n  ')).toEqual(expect.arrayContaining(['rows', 'every row', 'fails']));
    expect(behind('expect unstrung\n  every row ')).toContain('strung_on');
    expect(behind('expect delete Tag(1)\n  ')).toEqual(['done', 'refused', 'note']);
  });
});

describe.each([
  'demo/library.kin',
  'tests/forms/forms.kin',
  'tests/forms/pairs.kin',
  'tests/forms/several.kin',
  'tests/apiary.kin',
])('of %s', (file) => {
  const whole = readFileSync(file, 'utf8');
  const design = readDesign(whole);
  const lineOf = (span: Span) => whole.slice(whole.lastIndexOf('\n', span.start) + 1, span.end);

  test('each name that stands there is offered where it stands', () => {
    const offers = (label: string, name: string) =>
      label === name || label.endsWith(`.${name}`) || label.startsWith(`${name}(`) || label.startsWith(`${name}.`);
    const missing = design.references
      .filter(({ declares }) => !declares)
      .filter(({ span, thing }) => !complete(design, whole, span.end).options.some(({ label }) => offers(label, thing.name)));
    expect(missing.map(({ span }) => lineOf(span))).toEqual([]);
  });

  test('each name says what it means, where its declaration stands', () => {
    const silent = design.references.filter(
      ({ span, thing }) => (thing.kind !== 'query' || design.model.queries.has(thing.name)) && hover(design, span.start) === null,
    );
    expect(silent.map(({ span }) => lineOf(span))).toEqual([]);
  });
});

describe('completion of the demo', () => {
  test('never fails, wherever the cursor is', () => {
    for (let offset = 0; offset <= text.length; offset += 7) {
      const { span } = complete(demo, text, offset);
      expect(span.end).toBe(offset);
      expect(span.start).toBeLessThanOrEqual(offset);
    }
  });
});
