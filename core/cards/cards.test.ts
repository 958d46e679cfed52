import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { readDesign } from '../design/index.js';
import { type Card, cardsOf, type EntityCard, type RelationCard } from './index.js';

const demo = cardsOf(readDesign(readFileSync('demo/library.kin', 'utf8')));

function entity(name: string, cards: readonly Card[] = demo): EntityCard {
  const card = cards.find((candidate) => candidate.kind === 'entity' && candidate.name === name);
  if (card?.kind !== 'entity') throw new Error(`no card of ${name}`);
  return card;
}

function relation(name: string, cards: readonly Card[] = demo): RelationCard {
  const card = cards.find((candidate) => candidate.kind === 'relation' && candidate.name === name);
  if (card?.kind !== 'relation') throw new Error(`no card of ${name}`);
  return card;
}

describe('the card of an entity', () => {
  test('says its table and whether that is stated', () => {
    expect(entity('Loan').table).toEqual({ place: 'loans', text: 'loans', why: 'stated', stated: true });
    const [card] = cardsOf(readDesign('entity StringInstrument\n  id integer key\n'));
    expect(card?.kind === 'entity' && card.table).toEqual({
      place: 'string_instruments',
      text: 'string_instruments',
      why: 'by convention: the plural of the entity’s name',
      stated: false,
    });
  });

  test('says its relations as sentences, both ways of a self-relation too', () => {
    const said = entity('Player').sentences.map(
      ({ subject, knows, targets, role }) => `${subject} knows ${knows} ${targets.join(' | ')} as ${role}`,
    );
    expect(said).toContain('Player knows at most one Player as mentor');
    expect(said).toContain('Player knows many Player as pupils');
    expect(said).toContain('Player knows many Ensemble as ensembles');
    expect(entity('Player').sentences.find((sentence) => sentence.role === 'duet_partners')?.bothWays).toBe(true);
  });

  test('says what each field is, where it comes from, and that a derived one is computed', () => {
    const fields = new Map(entity('Player').fields.map((field) => [field.name, field]));
    expect(fields.get('email')).toMatchObject({ type: 'text(255)', marks: ['unique'] });
    expect(fields.get('steward')).toMatchObject({ marks: ['default false', 'internal'], note: 'may see every branch' });
    expect(fields.get('created_at')?.marks).toEqual(['default now', 'fixed', 'from Dated']);
    expect(fields.get('portrait_url')).toMatchObject({
      derived: true,
      marks: ["= '/media/' || coalesce(portrait, 'blank.svg')", 'computed when read'],
    });
  });

  test('has the SQL of its table and indexes', () => {
    expect(entity('Loan').sql).toMatch(
      /^create table loans \([\s\S]*\);\n\ncreate index loans_due_on_index on loans \(due_on\);/,
    );
  });
});

describe('the card of a relation', () => {
  test('says where it is stored, and by which convention', () => {
    expect(relation('borrowing').storage).toEqual([
      {
        place: 'loans.borrower_id',
        text: 'loans.borrower_id → players.id, not null',
        why: 'by convention: the role and _id, in loans',
        stated: false,
      },
    ]);
    expect(relation('home_branch').storage[0]).toMatchObject({ stated: true });
    expect(relation('card_of').storage[0]?.text).toBe('cards.player_id → players.id, not null, unique');
  });

  test('says of a pivot its table and both columns', () => {
    expect(relation('seating').storage.map((part) => part.text)).toEqual([
      'table seats, each pair once',
      'seats.player_id → players.id',
      'seats.ensemble_id → ensembles.id',
    ]);
    expect(relation('seating').sql).toMatch(/^create table seats \(/);
  });

  test('has the SQL of its key column', () => {
    expect(relation('borrowing').sql).toBe(
      'borrower_id INTEGER not null\nconstraint loans_borrower_id_fkey foreign key (borrower_id) references players (id) on delete cascade\ncreate index loans_borrower_id_index on loans (borrower_id)',
    );
  });

  test.each([
    ['borrowing', 'When a player is deleted', 'its loans go with it', 'cascade', true],
    ['home_branch', 'When a branch is deleted', 'refused while it has players', 'restrict', true],
    ['mentoring', 'When a player is deleted', 'its players stay, and their key is emptied', 'set null', false],
    ['card_of', 'When a player is deleted', 'its card goes with it', 'cascade', true],
    ['tagging', 'When an instrument is deleted', 'its rows in taggings go with it', 'cascade', false],
    ['remark_subject', 'When an instrument is deleted', 'its remarks go with it', 'cascade', true],
  ])('%s: %s, %s (%s)', (name, when, then, rule, stated) => {
    const [first] = relation(name).deletes;
    expect(first).toEqual({ when, then, rule, stated });
  });

  test('says what a delete does at both ends of a pivot, once where both are the same entity', () => {
    expect(relation('seating').deletes.length).toBe(2);
    expect(relation('duets').deletes.length).toBe(1);
  });

  test('joins from each end', () => {
    expect(relation('borrowing').joins.map((join) => join.sql)).toEqual([
      'select loans.id, players.id\nfrom loans\njoin players on players.id = loans.borrower_id',
      'select players.id, loans.id\nfrom players\nleft join loans on loans.borrower_id = players.id',
    ]);
    expect(relation('mentoring').joins[0]?.sql).toBe(
      'select players.id, mentor.id\nfrom players\nleft join players mentor on mentor.id = players.mentor_id',
    );
    expect(relation('seating').joins[1]?.sql).toContain(
      'from ensembles\nleft join seats on seats.ensemble_id = ensembles.id\nleft join players',
    );
  });
});
