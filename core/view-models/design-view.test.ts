import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { readDesign } from '../design/index.js';
import { parseQuery } from '../notation/index.js';
import { designView, mapView, openingOf, openingTold, WHOLE_MAP } from './index.js';

const viewOf = (text: string) => designView(readDesign(text));
const demo = designView(readDesign(readFileSync('demo/library.kin', 'utf8')));

describe('what a page is given', () => {
  test('is plain data that can cross to it', () => {
    expect(structuredClone(demo)).toEqual(demo);
    expect(demo.title).toBe('Cinder Row Instrument Library');
    expect(demo.findings.map(({ weight, code }) => [weight, code])).toEqual([['note', 'session-settings']]);
  });

  test('a saved query has its head and its lines, without its note and its indentation', () => {
    const query = demo.queries.find((candidate) => candidate.name === 'overdue_by_branch');
    expect(query).toMatchObject({
      head: 'branch Branch',
      note: 'What the desk rings about in the morning.',
      parameters: [{ name: 'branch', type: 'Branch', entity: 'Branch', values: null, optional: false }],
    });
    expect(query?.body).toMatch(/^from Loan\nwhere overdue[\s\S]*\n {2}branch \(name\)\n[\s\S]*limit 50$/);
    for (const { body } of demo.queries) expect(parseQuery(body).findings).toEqual([]);
  });

  test('rows that a person puts in order say by which number, of their own or of the pair', () => {
    const ends = (entity: string) => demo.entities.find(({ name }) => name === entity)?.ends ?? [];
    expect(ends('Concert').find(({ name }) => name === 'pieces')?.position).toEqual({
      field: 'position',
      ofPair: true,
      unique: false,
    });
    expect(ends('Instrument').find(({ name }) => name === 'loans')?.position).toBeNull();
    const text =
      'tree T\nentity A\n  id integer key\n  place integer unique\n  order by place\nentity B\n  id integer key\n  order by id\n';
    expect(viewOf(text).entities.map(({ position }) => position)).toEqual([
      { field: 'place', ofPair: false, unique: true },
      null,
    ]);
  });

  test('a query that does not stand is not offered', () => {
    expect(
      viewOf('entity A\n  id integer key\n\nquery good\n  from A\n\nquery bad\n  from B\n').queries.map((query) => query.name),
    ).toEqual(['good']);
  });

  test('an entity is shown by the field that its title begins with', () => {
    const shown = new Map(demo.entities.map((entity) => [entity.name, entity.shownField]));
    expect([shown.get('Player'), shown.get('Instrument'), shown.get('Loan')]).toEqual(['name', 'name', 'id']);
  });

  test('roles lead to entities, key columns to roles, pivots have their tables', () => {
    const player = demo.entities.find((entity) => entity.name === 'Player');
    expect(player?.roles).toMatchObject({ branch: 'Branch', mentor: 'Player', ensembles: 'Ensemble' });
    expect(player?.keyColumns).toEqual({ branch_id: 'branch', mentor_id: 'mentor' });
    expect(demo.pivots).toEqual(['seats', 'duets', 'setlist', 'taggings']);
  });

  test('every declaration has its place, and every label its stems', () => {
    for (const { kind, span } of demo.declarations) expect(demo.text.slice(span.start).startsWith(kind)).toBe(true);
    const map = mapView(readDesign(demo.text), WHOLE_MAP);
    const knots = demo.relations.filter(({ form }) => form === 'polymorphic');
    expect(map.layout.labels.length).toBe(map.labels.length + demo.pivots.length + knots.length);
  });

  test('choices and truth values can be chosen', () => {
    const [query] = viewOf(
      "choice C\n  'a'\n  'b'\n\nentity A\n  id integer key\n  c C\n  y boolean\n\nquery q(c C, y boolean optional)\n  from A\n  where c = :c and y = :y\n",
    ).queries;
    expect(query?.parameters.map(({ values, optional }) => [values, optional])).toEqual([
      [['a', 'b'], false],
      [['true', 'false'], true],
    ]);
  });

  test('an empty text is an empty picture', () => {
    expect(viewOf('')).toMatchObject({ title: 'Untitled', relations: [], queries: [], findings: [] });
  });
});

describe('an opening', () => {
  test('is the same when it was told as JSON', () => {
    for (const file of ['demo/library.kin', 'tests/apiary.kin', 'tests/forms/forms.kin', 'tests/forms/joined.kin']) {
      const design = readDesign(readFileSync(file, 'utf8'));
      const told = JSON.parse(JSON.stringify(openingTold(design)));
      expect(openingOf(design.text, told)).toEqual({ view: designView(design), map: mapView(design, WHOLE_MAP) });
    }
  });
});
