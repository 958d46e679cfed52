import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { AUDITED_LIBRARY } from '../../tests/audited-library.js';
import { readDesign } from '../design/index.js';
import type { DialectName } from '../notation/index.js';
import { cardOf, type EntityCard, type RelationCard } from './index.js';

const texts = {
  forms: readFileSync('tests/forms/forms.kin', 'utf8'),
  several: readFileSync('tests/forms/several.kin', 'utf8'),
};

function relation(name: string, file: keyof typeof texts = 'forms', dialect: DialectName = 'sqlite'): RelationCard {
  const card = cardOf(readDesign(texts[file], dialect), 'relation', name);
  if (card?.kind !== 'relation') throw new Error(`no card of ${name}`);
  return card;
}

function entity(name: string): EntityCard {
  const card = cardOf(readDesign(texts.forms), 'entity', name);
  if (card?.kind !== 'entity') throw new Error(`no card of ${name}`);
  return card;
}

const stored = (card: RelationCard) => card.storage.map(({ text }) => text);
const joins = (card: RelationCard) => Object.fromEntries(card.joins.map(({ from, role, sql }) => [`${from}.${role}`, sql]));

describe('the card of a relation to several entities', () => {
  test('says its sentences, one for all that it leads to, and one for each back', () => {
    expect(relation('remark_subject').sentences.map(({ subject, targets, role }) => [subject, targets, role])).toEqual([
      ['Remark', ['Instrument', 'Ensemble', 'Player'], 'subject'],
      ['Instrument', ['Remark'], 'remarks'],
      ['Ensemble', ['Remark'], 'remarks'],
      ['Player', ['Remark'], 'remarks'],
    ]);
  });

  test('says where it is stored, and what each mark means', () => {
    expect(stored(relation('remark_reply'))).toEqual([
      'remarks.answers_kind with remarks.answers_key, triggers keep that it is there',
      "'r' → remarks",
      "'contract' → contracts",
      "'receipt' → receipts",
      "'hall' → halls",
    ]);
    expect(stored(relation('stamped'))).toEqual([
      'stamps.letter_id → parcels, one of 3 is filled',
      'stamps.city_code → cities, one of 3 is filled',
      'stamps.wind_id → instruments, one of 3 is filled',
    ]);
    expect(stored(relation('tagging', 'several'))[0]).toBe('table tagged, a pair may repeat');
  });

  test('says the table of its pairs where that has a column for each', () => {
    const text = texts.forms.replace('(tag_name, thing_type with thing_id)', '(tag_name, (instrument_id, player_id, studio_id))');
    const card = cardOf(readDesign(text), 'relation', 'tagging');
    expect(card?.kind === 'relation' && stored(card)).toEqual([
      'table taggings, each pair once',
      'taggings.instrument_id → instruments, one of 3 is filled',
      'taggings.player_id → players, one of 3 is filled',
      'taggings.studio_id → studios, one of 3 is filled',
    ]);
  });

  test('says what the delete of each does', () => {
    expect(relation('remark_subject').deletes.map(({ when, then }) => `${when}: ${then}`)).toEqual([
      'When an instrument is deleted: its remarks go with it',
      'When an ensemble is deleted: its remarks go with it',
      'When a player is deleted: its remarks go with it',
    ]);
  });

  test('has its triggers among its SQL, in the words of each engine', () => {
    expect(relation('remark_subject').sql).toContain('create trigger remarks_subject_there_insert before insert on remarks');
    expect(relation('remark_subject').sql).toContain('create trigger players_remarks_subject_delete after delete on players');
    expect(relation('remark_subject', 'forms', 'postgres').sql).toContain('create function');
    expect(relation('remark_subject', 'forms', 'mariadb').sql).toContain('signal sqlstate');
  });
});

describe('the join on a card', () => {
  test('is one over all that a role leads to, with a key compared as what it is', () => {
    expect(joins(relation('remark_subject', 'forms', 'postgres'))['Remark.subject']).toBe(
      [
        'select remarks.id, instruments.id, ensembles.id, players.id',
        'from remarks',
        'left join instruments',
        "  on instruments.id = case when remarks.subject_type = 'instrument' then cast(remarks.subject_id as integer) end",
        'left join ensembles',
        "  on ensembles.id = case when remarks.subject_type = 'ensemble' then cast(remarks.subject_id as uuid) end",
        'left join players',
        "  on players.id = case when remarks.subject_type = 'player' then cast(remarks.subject_id as integer) end",
      ].join('\n'),
    );
  });

  test('keeps rows of other kinds out, where a kind has no table of its own', () => {
    const { 'Loan.spare': forth = '', 'StringInstrument.spared_for': back = '' } = joins(relation('spare_strings'));
    expect(forth).toMatch(/left join instruments\n {2}on .*\n {4}and instruments\.kind in \('string', 'harp'\)/);
    expect(back).toMatch(/where instruments\.kind in \('string', 'harp'\)$/);
  });

  test('reads kinds in separate tables as one', () => {
    expect(joins(relation('paper_of'))['Loan.paper']).toMatch(
      /left join \(\n {2}select contracts\.id[\s\S]*union all[\s\S]*\) papers/,
    );
  });

  test('reads a pair that is known both ways from both its sides', () => {
    expect(joins(relation('duets'))['Player.duet_partners']).toContain('union all');
  });

  test('goes back also where no sentence does, and has no role then', () => {
    const design = readDesign('entity A\n  id integer key\n\nentity B\n  id integer key\n\nrelation r\n  A knows one B as b\n');
    const card = cardOf(design, 'relation', 'r');
    expect(card?.kind === 'relation' ? card.joins : []).toEqual([
      { from: 'A', role: 'b', sql: 'select "as".id, bs.id\nfrom "as"\njoin bs on bs.id = "as".b_id' },
      { from: 'B', role: null, sql: 'select bs.id, "as".id\nfrom bs\nleft join "as" on "as".b_id = bs.id' },
    ]);
  });
});

describe('the card of an entity', () => {
  test('of a base says what its kinds are and how they are stored', () => {
    expect(entity('Paper').kinds).toMatchObject({
      base: null,
      abstract: true,
      storage: { kind: 'separate tables' },
      kinds: ['Contract', 'Receipt'],
    });
    expect(entity('Instrument').sql).toContain("check (kind in ('string', 'harp', 'wind_instrument'))");
  });

  test('of a kind has what it has of its own and of its base, and says its base', () => {
    const harp = entity('Harp');
    expect(harp.fields.map(({ name }) => name)).toEqual([
      'id',
      'maker',
      'condition',
      'string_count',
      'tuned_on',
      'pedals',
      'levers',
    ]);
    expect(harp.kinds).toMatchObject({ base: 'StringInstrument', mark: 'harp' });
  });

  test('says what walls ask of its rows, from what they keep, and who is free of them', () => {
    const card = cardOf(readDesign(AUDITED_LIBRARY), 'entity', 'Horn');
    expect(card?.kind === 'entity' ? card.walls : null).toEqual([
      { name: 'own_things', on: null, lines: ['valves < 9'], unless: ['me.steward'] },
      { name: 'own_horns', on: 'write', lines: ['valves > 1'], unless: [] },
    ]);
  });

  test('of somebody else’s says so, and tells its paths', () => {
    expect(entity('Register').given).toBe(true);
    expect(entity('Player').paths.find(({ name }) => name === 'last_loan')).toMatchObject({
      text: 'loans order by lent_on desc, id desc first',
      target: 'Loan',
      many: false,
    });
  });
});
