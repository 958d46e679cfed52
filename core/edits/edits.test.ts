import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { arbitraryTree } from '../../tests/arbitrary-tree.js';
import { type Design, readDesign } from '../design/index.js';
import type { Edit } from '../notation/index.js';
import {
  addEntity,
  addField,
  addQuery,
  addRelation,
  addSampleRow,
  applied,
  changeQuery,
  changeType,
  rename,
  setDefault,
  setDeleteRule,
  setOptional,
  setSampleCount,
} from './index.js';

const demo = readDesign(readFileSync('demo/library.kin', 'utf8'));

/** The lines that an edit took out, and those that it put in; every other line is as it was. */
function changed(design: Design, edits: readonly Edit[]): { gone: string[]; fresh: string[]; after: Design } {
  const after = applied(design.text, edits);
  const before = design.text.split('\n');
  const now = after.split('\n');
  const rest = [...now];
  const gone = before.filter((line) => {
    const at = rest.indexOf(line);
    if (at >= 0) rest.splice(at, 1);
    return at < 0;
  });
  return { gone, fresh: rest.filter((line) => line.trim() !== ''), after: readDesign(after) };
}

const errors = (design: Design) => design.findings.filter(({ weight }) => weight === 'error').map(({ message }) => message);

/** What would stand in a database: a rename must never move it. */
function storage(design: Design): string {
  return JSON.stringify(
    design.schema.tables.map((table) => [table.name.name, table.columns.map((column) => column.name)]).sort(),
  );
}

describe('a click changes its own line and no other', () => {
  test('a field goes behind the last one, its type below the others', () => {
    const { gone, fresh, after } = changed(
      demo,
      addField(demo, 'Loan', { name: 'fee', type: 'decimal(6, 2)', optional: true, default: '0' }),
    );
    expect(gone).toEqual([]);
    expect(fresh).toEqual(['  fee          decimal(6, 2) optional default 0']);
    expect(errors(after)).toEqual([]);
  });

  test('a type, optional and a default are changed where they stand, comments stay', () => {
    const design = readDesign("entity Card\n  id    integer key\n  word  text(9) optional, note 'x'  -- stays\n");
    expect(applied(design.text, changeType(design, 'Card', 'word', 'text(30)'))).toContain(
      "  word  text(30) optional, note 'x'  -- stays",
    );
    expect(applied(design.text, setOptional(design, 'Card', 'word', false))).toContain("  word  text(9), note 'x'  -- stays");
    expect(setOptional(design, 'Card', 'word', true)).toEqual([]);
    const withDefault = readDesign(applied(design.text, setDefault(design, 'Card', 'word', "'a'")));
    expect(withDefault.text).toContain("  word  text(9) optional default 'a', note 'x'  -- stays");
    expect(applied(withDefault.text, setDefault(withDefault, 'Card', 'word', "'b'"))).toContain("default 'b'");
    expect(applied(withDefault.text, setDefault(withDefault, 'Card', 'word', null))).toBe(design.text);
  });

  test('a field of a mixin is changed in the mixin', () => {
    const { gone } = changed(demo, setOptional(demo, 'Player', 'created_at', true));
    expect(gone).toEqual(['  created_at  timestamp default now fixed']);
  });

  test('a delete rule is written, changed, and taken out again', () => {
    const written = changed(demo, setDeleteRule(demo, 'lending', 'cascade'));
    expect(written).toMatchObject({ gone: [], fresh: ['  on delete cascade'] });
    const after = changed(written.after, setDeleteRule(written.after, 'lending', 'restrict')).after;
    expect(after.model.relations.get('lending')?.onDelete.value).toBe('restrict');
    expect(applied(written.after.text, setDeleteRule(written.after, 'lending', null))).toBe(demo.text);
  });

  test('an entity, a relation and a query stand behind the last of their sort', () => {
    const entity = changed(demo, addEntity(demo, 'Shelf'));
    expect(entity.gone).toEqual([]);
    expect(errors(entity.after)).toEqual([]);
    const relation = changed(
      entity.after,
      addRelation(entity.after, {
        name: 'shelving',
        subject: 'Instrument',
        knows: 'at most one',
        target: 'Shelf',
        more: [],
        role: 'shelf',
        back: { knows: 'many', role: 'instruments' },
        backs: [],
        bothWays: false,
        stored: null,
        onDelete: 'set null',
      }),
    );
    expect(errors(relation.after)).toEqual([]);
    expect(relation.after.model.relations.get('shelving')?.form).toBe('one-to-many');
    const query = changed(
      demo,
      addQuery(demo, 'late', 'since date', 'from Loan\nwhere due_on > :since\nload borrower\n  branch'),
    );
    expect(query.gone).toEqual([]);
    expect(query.after.model.queries.get('late')?.loads.length).toBe(1);
    const typed = changed(demo, addQuery(demo, 'late', '', 'from Loan; where overdue;  load borrower (name); limit 5'));
    expect(typed.after.text).toContain('query late\n  from Loan\n  where overdue\n  load borrower (name)\n  limit 5\n');
  });

  test('also in an empty text', () => {
    const empty = readDesign('');
    expect(errors(readDesign(applied('', addEntity(empty, 'Branch'))))).toEqual([]);
  });
});

describe('a query that is kept again', () => {
  test('has another body and other parameters, and its note and what stands around it', () => {
    const text =
      "entity Hall\n  id integer key\n\n-- above\nquery one(most integer)\n  note 'All that are low'\n  from Hall\n  where id < :most\n\n-- below\nquery two\n  from Hall\n";
    const after = applied(text, changeQuery(readDesign(text), 'one', 'least integer', 'from Hall\nwhere id > :least\n'));
    expect(after).toBe(
      "entity Hall\n  id integer key\n\n-- above\nquery one(least integer)\n  note 'All that are low'\n  from Hall\n  where id > :least\n\n-- below\nquery two\n  from Hall\n",
    );
    expect(errors(readDesign(after))).toEqual([]);
  });
});

describe('a rename', () => {
  const renamed = (
    design: Design,
    kind: 'entity' | 'role' | 'relation' | 'field' | 'scope' | 'wall',
    owner: string,
    name: string,
    to: string,
  ) => {
    const outcome = rename(design, { kind, owner, name }, to);
    if (!outcome.ok) throw new Error(outcome.problem);
    return { ...outcome, after: readDesign(applied(design.text, outcome.edits)) };
  };

  test('reaches every place, in expressions, loads, orders and samples too', () => {
    const { after, places } = renamed(demo, 'field', 'Loan', 'returned_on', 'back_on');
    expect(places).toBeGreaterThan(5);
    expect(errors(after)).toEqual([]);
    expect(after.text.match(/\breturned_on\b/g)).toEqual(['returned_on']);
    expect(after.text).toContain('column returned_on');
  });

  test('of a wall reaches the queries that see over it', () => {
    const { after, places } = renamed(demo, 'wall', '', 'own_branch', 'of_one_branch');
    expect(places).toBe(2);
    expect(errors(after)).toEqual([]);
    expect(after.text).toContain('  lift of_one_branch\n');
  });

  test('of a role writes out the key column that a convention had named', () => {
    const { after, kept } = renamed(demo, 'role', 'Loan', 'borrower', 'player');
    expect(kept).toEqual(['Loan.borrower_id']);
    expect(after.text).toContain('stored in Loan.borrower_id');
    expect(storage(after)).toBe(storage(demo));
  });

  test.each(['demo/library.kin', 'tests/forms/forms.kin', 'tests/forms/pairs.kin', 'tests/forms/several.kin'])(
    'never moves data, whatever is renamed in %s',
    (file) => {
      const design = readDesign(readFileSync(file, 'utf8'));
      for (const { thing, declares } of design.references) {
        if (!declares || ['sample row', 'pivot', 'check'].includes(thing.kind)) continue;
        const outcome = rename(design, thing, /^[A-Z]/.test(thing.name) ? 'Fresh' : 'fresh');
        expect(outcome, JSON.stringify(thing)).toMatchObject({ ok: true });
        if (!outcome.ok) continue;
        const after = readDesign(applied(design.text, outcome.edits));
        expect(errors(after), JSON.stringify(thing)).toEqual([]);
        expect(storage(after), JSON.stringify(thing)).toBe(storage(design));
      }
    },
    600_000,
  );

  test('never moves data in any tree, and can be taken back', () => {
    fc.assert(
      fc.property(arbitraryTree, fc.nat(), (text, pick) => {
        const design = readDesign(text);
        const declared = design.references.filter(
          ({ declares, thing: { kind } }) => declares && kind !== 'pivot' && kind !== 'check',
        );
        const thing = declared[pick % Math.max(1, declared.length)]?.thing;
        if (thing === undefined || errors(design).length > 0) return;
        const outcome = rename(design, thing, /^[A-Z]/.test(thing.name) ? 'Zzz' : 'zzz');
        if (!outcome.ok) return;
        const after = readDesign(applied(text, outcome.edits));
        expect(errors(after), JSON.stringify(thing)).toEqual([]);
        expect(storage(after)).toBe(storage(design));
      }),
      { numRuns: 150, seed: 7 },
    );
  });

  test('of a parameter, a check and a pivot reaches every place, and says what of the database is called so too', () => {
    const text = `tree 'Small'
entity Player
  id integer key
  score integer
  check fair: score >= 0
entity Ensemble
  id integer key
relation seating
  Ensemble knows many Player as players order by seats.chair
  Player knows many Ensemble as ensembles
  stored in table seats
    chair integer
query good(least integer)
  from Player
  where score > :least
  limit :least
`;
    const design = readDesign(text);
    expect(errors(design)).toEqual([]);
    const renamed = (kind: 'parameter' | 'check' | 'pivot', owner: string, name: string) => {
      const outcome = rename(design, { kind, owner, name }, 'other');
      return outcome.ok ? [applied(text, outcome.edits), outcome.places, outcome.also] : outcome.problem;
    };
    expect(renamed('parameter', 'good', 'least')).toEqual([text.replaceAll('least', 'other'), 3, null]);
    expect(renamed('check', 'Player', 'fair')).toEqual([text.replace('fair', 'other'), 1, 'the constraint']);
    expect(renamed('pivot', '', 'seats')).toEqual([text.replaceAll('seats', 'other'), 2, 'the table']);
  });

  test('to a name that is taken is refused, with what it clashes with', () => {
    expect(rename(demo, { kind: 'field', owner: 'Loan', name: 'due_on' }, 'lent_on')).toMatchObject({
      ok: false,
      problem: expect.stringContaining('lent_on'),
    });
    expect(rename(demo, { kind: 'entity', owner: '', name: 'Loan' }, 'loan')).toMatchObject({ ok: false });
    expect(rename(demo, { kind: 'field', owner: 'Loan', name: 'due_on' }, 'not')).toMatchObject({ ok: false });
    expect(rename(demo, { kind: 'field', owner: 'Loan', name: 'due_on' }, '1st')).toMatchObject({ ok: false });
  });
});

describe('samples by hand', () => {
  const value = (name: string, text: string) => ({
    name,
    entered: { kind: 'value' as const, type: { kind: 'text', length: null } as const, text },
  });
  const edited = (text: string, edits: (design: ReturnType<typeof readDesign>) => ReturnType<typeof setSampleCount>) => {
    const after = applied(text, edits(readDesign(text)));
    expect(readDesign(after).findings.filter(({ weight }) => weight === 'error')).toEqual([]);
    return after.slice(text.indexOf('sample') < 0 ? text.trimEnd().length : text.indexOf('sample')).trim();
  };
  const ENTITY = 'entity Hall\n  id    integer key\n  name  text\n';

  test('how many rows there are is said where the text says it, or where it says nothing yet', () => {
    expect(edited(ENTITY, (design) => setSampleCount(design, 'Hall', 40))).toBe('sample Hall 40');
    const rows = `${ENTITY}\nsample Hall 12  -- few\n  a: name 'A'\n  name 'x', 'y'\n`;
    expect(edited(rows, (design) => setSampleCount(design, 'Hall', 400))).toBe(
      "sample Hall 400  -- few\n  a: name 'A'\n  name 'x', 'y'",
    );
  });

  test('a row is kept under a name, behind those that have one', () => {
    const b = [value('name', "the 'B'")];
    expect(edited(ENTITY, (design) => addSampleRow(design, 'Hall', 'b', b))).toBe("sample Hall\n  b: name 'the ''B'''");
    const rows = `${ENTITY}\nsample Hall 12\n  a: name 'A'  -- the first\n  name 'x', 'y'\n`;
    expect(edited(rows, (design) => addSampleRow(design, 'Hall', 'b', b))).toBe(
      "sample Hall 12\n  a: name 'A'  -- the first\n  b: name 'the ''B'''\n  name 'x', 'y'",
    );
  });
});
