import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { everything } from '../../tests/agreement.js';
import { arbitraryTree } from '../../tests/arbitrary-tree.js';
import { queryIn } from '../../tests/prepared.js';
import { readDesign } from '../design/index.js';
import { type Access, accessesOf, planQuery, type QueryPlan } from './index.js';

const demo = readDesign(readFileSync('demo/library.kin', 'utf8'));
const forms = readDesign(readFileSync('tests/forms/forms.kin', 'utf8'));

const planOf = (text: string, design = demo) => planQuery(design.model, queryIn(design, text));

/** An access as `what entity`: over which role, as what, and whether its key alone is looked at. */
function told({ entity, over, reads }: Access): string {
  const how = over.kind === 'role' ? `${over.role.entity}.${over.role.name}` : over.kind;
  return `${how} → ${entity ?? 'pairs'}${reads === 'key' ? ' (key)' : ''}`;
}

const accesses = (plan: QueryPlan) => accessesOf(plan).map(told);

describe('every read of an entity is an access', () => {
  test('the rows asked for, and those behind each hop, once however often it is walked', () => {
    expect(accesses(planOf("from Loan\nwhere borrower.name = 'x' or borrower.email = 'y'\norder by borrower.name"))).toEqual([
      'all → Loan',
      'Loan.borrower → Player',
    ]);
  });

  test('a key that is only looked at, which may stand in the row itself', () => {
    expect(accesses(planOf('from Player\nwhere mentor is null'))).toEqual(['all → Player', 'Player.mentor → Player (key)']);
    expect(accesses(planOf("from Player\nwhere mentor is null or mentor.name = 'x'"))).toContain('Player.mentor → Player');
  });

  test('what a quantifier looks through, with its own hops, and the pairs in between', () => {
    const found = accesses(planOf("from Ensemble\nwhere any(players[branch.name = 'North'])"));
    expect(found).toEqual([
      'all → Ensemble',
      'Ensemble.players → Player',
      expect.stringMatching(/^pairs →/),
      'Player.branch → Branch',
    ]);
  });

  test('each step of a path, and the ends of loads with their owners', () => {
    const { model } = demo;
    for (const entity of model.entities.values())
      for (const { name, way } of entity.paths) {
        if (way.kind !== 'path') continue;
        const [load] = planOf(`from ${entity.name}\nload ${name}`).loads;
        expect(load?.steps.length).toBeGreaterThanOrEqual(way.hops.length);
        expect(load?.owners).toMatchObject({ entity: load?.role.entity, over: { kind: 'owners' }, reads: 'key' });
      }
  });

  test('the entities that a role to several is told apart by', () => {
    const found = accesses(planOf('from Remark\nwhere subject is null'));
    expect(found).toEqual([
      'all → Remark',
      'Remark.subject → Instrument (key)',
      'Remark.subject → Ensemble (key)',
      'Remark.subject → Hall (key)',
    ]);
  });

  test('on any design and any query: each names the one that it comes from, and an entity of the design', () => {
    fc.assert(
      fc.property(arbitraryTree, (text) => {
        const design = readDesign(text);
        for (const asked of everything({ design }).slice(0, 40)) {
          const all = accessesOf(planOf(asked, design));
          const ids = new Set(all.map(({ id }) => id));
          expect(ids.size).toBe(all.length);
          for (const { entity, over } of all) {
            if (entity !== null) expect(design.model.entities.has(entity)).toBe(true);
            if ('from' in over) expect(ids.has(over.from)).toBe(true);
          }
        }
      }),
      { numRuns: 25, seed: 15 },
    );
  });
});

describe('a plan', () => {
  test('has no word of SQL, of a table or of a column but what the model itself says', () => {
    const plan = planOf('from Remark\nwhere subject is not null\nload subject', forms);
    expect(JSON.stringify(plan)).not.toMatch(/"kind":"select"|"kind":"in keys"|"alias"|"joins"/);
  });

  test('is made once for a query, and is the same value from then on', () => {
    const query = queryIn(demo, 'from Loan');
    expect(planQuery(demo.model, query)).toBe(planQuery(demo.model, query));
    expect(planQuery(demo.model, query, { output: 'keys' })).not.toBe(planQuery(demo.model, query));
  });

  test('counts the same of the same row in one place', () => {
    const plan = planOf('from Player\nwhere count(loans) > 3 and count(loans) < 9');
    expect(accesses(plan).filter((access) => access.startsWith('Player.loans'))).toHaveLength(1);
  });
});
