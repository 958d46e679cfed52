import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { relationText } from '../../../core/edits/index.js';
import { answers } from '../../workers/answer.js';
import { closeKin, found } from './kin.js';
import { effectOnRows, type RelationDraft, suggested } from './relating.js';
import { storingChoices } from './storing.js';

const text = readFileSync('demo/library.kin', 'utf8');
const view = answers.view({ text, dialect: null });
const map = answers.map({ text, options: { lines: 'keys', folded: [] }, kin: null });

const stated = (more: Partial<RelationDraft>): RelationDraft => ({
  subject: 'Repair',
  target: 'Player',
  more: [],
  knows: 'one',
  back: 'many',
  backs: null,
  bothWays: false,
  role: null,
  backRole: null,
  name: null,
  stored: '',
  onDelete: null,
  ...more,
});

const rows = { Repair: 210, Player: 180, Hall: 4, Card: 150 };

describe('relating two entities', () => {
  test('names are suggested that read as a sentence', () => {
    expect(relationText(suggested(view, stated({})))).toBe(
      'relation repair_player\n  Repair knows one Player as player\n  Player knows many Repair as repairs',
    );
    expect(suggested(view, stated({ knows: 'many' })).role).toBe('players');
  });

  test('a name that something bears already is not suggested again', () => {
    const relation = suggested(view, stated({ subject: 'Loan', target: 'Instrument' }));
    expect([relation.role, relation.back?.role]).toEqual(['instrument_2', 'loans_2']);
    expect(suggested(view, stated({ name: 'borrowing' })).name).toBe('borrowing');
  });

  test('with itself, both roles are told apart', () => {
    const relation = suggested(view, stated({ subject: 'Hall', target: 'Hall', knows: 'at most one' }));
    expect(relation.role).not.toBe(relation.back?.role);
    expect(suggested(view, stated({ subject: 'Hall', target: 'Hall', knows: 'many', bothWays: true })).back).toBeNull();
  });

  test('whatever is suggested stands in the text without a mistake', () => {
    for (const knows of ['one', 'at most one', 'many'] as const) {
      for (const back of ['at most one', 'many'] as const) {
        for (const [subject, target] of [
          ['Repair', 'Player'],
          ['Loan', 'Instrument'],
          ['Tag', 'Hall'],
        ] as const) {
          const relation = suggested(
            view,
            stated({ subject, target, knows, back, stored: knows === back ? `${subject}.x_id` : '' }),
          );
          const stored = knows === 'many' && back === 'many' ? null : relation.stored;
          const clicked = answers.click({ text, click: { kind: 'add relation', relation: { ...relation, stored } } });
          expect(clicked.problems, `${subject} ${knows} ${target} ${back}`).toEqual([]);
          expect(clicked.card).not.toBeNull();
          expect(clicked.sql.length).toBeGreaterThan(0);
        }
      }
    }
  });

  test('each way to store it that is offered stands in the text without a mistake, and says what it does', () => {
    const asked: Partial<RelationDraft>[] = [
      {},
      { knows: 'many' },
      { knows: 'at most one', back: 'at most one' },
      { knows: 'one', back: 'at most one' },
      { more: ['Concert', 'Hall'] },
      { more: ['Concert'], knows: 'at most one', back: 'at most one' },
      { more: ['Concert'], knows: 'many' },
      { subject: 'Player', target: 'Instrument', knows: 'many' },
      { subject: 'Hall', target: 'Hall', knows: 'many', bothWays: true },
      { subject: 'Hall', target: 'Hall', knows: 'at most one', back: 'at most one' },
      { back: 'nothing of' },
      { knows: 'many', back: 'nothing of' },
      { more: ['Concert'], back: 'nothing of' },
      { more: ['Concert'], backs: { Player: { back: 'many', role: 'mended' }, Concert: { back: 'nothing of', role: null } } },
      { more: ['Concert'], backs: { Player: { back: 'at most one', role: null }, Concert: { back: 'at most one', role: null } } },
    ];
    const forms = new Set<string>();
    for (const more of asked) {
      const plain = suggested(view, stated(more));
      const choices = storingChoices(view, plain);
      expect(choices.length, JSON.stringify(more)).toBeGreaterThan(0);
      for (const { title, why, stored } of choices) {
        const relation = suggested(view, stated({ ...more, stored: stored ?? '' }));
        const clicked = answers.click({ text, click: { kind: 'add relation', relation } });
        expect(clicked.problems, `${title}\n${clicked.added}`).toEqual([]);
        expect(why.length).toBeGreaterThan(30);
        if (clicked.card?.kind === 'relation') forms.add(clicked.card.form);
      }
    }
    expect(Array.from(forms).sort()).toEqual(
      ['many-to-many', 'one-to-many', 'one-to-one', 'polymorphic', 'polymorphic many-to-many', 'symmetric'].sort(),
    );
    const loans = storingChoices(view, suggested(view, stated({ subject: 'Player', target: 'Instrument', knows: 'many' })));
    expect(loans.map(({ title }) => title)).toContain('the rows of Loan');
  });

  test('what it means for the rows that are there is said beforehand', () => {
    const effect = (more: Partial<RelationDraft>) => effectOnRows(suggested(view, stated(more)), rows).join(' ');
    expect(effect({})).toContain('Each of the 210 rows of Repair must point at one of the 180 rows of Player');
    expect(effect({ knows: 'at most one' })).toContain('begin with an empty key');
    expect(effect({ knows: 'many' })).toContain('The new table begins empty');
    expect(effect({ back: 'at most one' })).toContain('so at most 180 can');
    expect(effect({ knows: 'many', back: 'one' })).toContain('Each of the 180 rows of Player');
    expect(effect({ target: 'Piece' })).toContain('There is no Piece yet to point at');
  });

  test('one who knows nothing of it has no sentence; of several, each has its own', () => {
    expect(relationText(suggested(view, stated({ back: 'nothing of' })))).toBe(
      'relation repair_player\n  Repair knows one Player as player',
    );
    const backs = { Player: { back: 'many' as const, role: null }, Concert: { back: 'at most one' as const, role: 'mend' } };
    expect(relationText(suggested(view, stated({ more: ['Concert'], backs })))).toBe(
      'relation repair_subject\n  Repair knows one Player | Concert as subject\n  Player knows many Repair as repairs\n  Concert knows at most one Repair as mend',
    );
  });

  test('keys of several parts are offered as such, and a key that is another’s', () => {
    const house = `entity Hall\n  site    text(20)\n  number  integer\n  key (site, number)\n\nentity Organ\n  id  integer key\n\nentity Bellows\n  id  integer key\n`;
    const seen = answers.view({ text: house, dialect: null });
    for (const [subject, target, expected] of [
      ['Organ', 'Hall', [null, 'Hall.organ_id']],
      ['Hall', 'Organ', [null, 'Organ.(hall_site, hall_number)']],
      ['Organ', 'Bellows', [null, 'Bellows.organ_id', 'Organ.id']],
    ] as const) {
      const asked = { subject, target, knows: 'one' as const, back: 'at most one' as const };
      const choices = storingChoices(seen, suggested(seen, stated(asked))).map(({ stored }) => stored);
      expect(choices).toEqual(expected);
      for (const stored of choices) {
        const relation = suggested(seen, stated({ ...asked, stored: stored ?? '' }));
        const clicked = answers.click({ text: house, click: { kind: 'add relation', relation } });
        expect(clicked.problems, clicked.added).toEqual([]);
      }
    }
  });

  test('of a table that changes, the lines that are new are told, a comma at its end aside', () => {
    const { sql } = answers.click({ text, click: { kind: 'add relation', relation: suggested(view, stated({})) } });
    const [table] = sql;
    const lines = table?.sql.split('\n') ?? [];
    expect(table?.added.map((at) => lines[at]?.trim())).toEqual([
      'player_id INTEGER not null,',
      'constraint repairs_player_id_fkey foreign key (player_id) references players (id) on delete restrict',
      'create index repairs_player_id_index on repairs (player_id);',
    ]);
  });

  test('while the rows are not counted nothing is said of their number', () => {
    const effect = (more: Partial<RelationDraft>) => effectOnRows(suggested(view, stated(more)), null).join(' ');
    expect(effect({})).toContain('Each of the rows of Repair must point at one of the rows of Player');
    expect(effect({ back: 'at most one' })).toMatch(/No two may point at the same Player\.$/);
    expect(effect({ target: 'Piece' })).not.toContain('There is no');
  });
});

describe('on the map', () => {
  test('close kin are those that a relation leads to, both ways and over pivots', () => {
    const kin = closeKin(view, map.layout, { kind: 'entity', name: 'Ensemble' });
    expect(kin).toEqual(
      new Set([
        'Ensemble',
        'relation seating',
        'pivot seating',
        'Player',
        'relation programme',
        'Concert',
        // A remark is kin to what it can be on; the other things that it can be on are not.
        'relation remark_subject',
        'knot remark_subject',
        'Remark',
      ]),
    );
    expect(closeKin(view, map.layout, { kind: 'relation', name: 'borrowing' })).toContain('Loan');
    expect(closeKin(view, map.layout, null)).toBeNull();
  });

  test('entities are found by name first, then by table, field and role', () => {
    expect(found(view, 'loan')[0]).toBe('Loan');
    expect(found(view, 'loan')).toEqual(expect.arrayContaining(['Player', 'Instrument']));
    expect(found(view, 'composer')).toEqual(['Piece']);
    expect(found(view, 'nothing like it')).toEqual([]);
    expect(found(view, ' ')).toEqual([]);
  });
});
