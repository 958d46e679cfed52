import { describe, expect, test } from 'vitest';
import { readDesign } from '../design/index.js';

const TREE = `tree 'Walls'
  actor Player

entity Branch in branches
  id  integer key

entity Player in players
  id       integer key
  name     text(40) optional
  steward  boolean default false

relation home
  Player knows at most one Branch as branch
  Branch knows many Player as players
`;

const told = (wall: string, tree = TREE) =>
  readDesign(`${tree}\n${wall}`).findings.filter(({ code }) => code !== 'not-built-yet' && !code.startsWith('index'));
const codes = (wall: string) =>
  told(wall)
    .filter(({ weight }) => weight !== 'note')
    .map(({ code }) => code);

describe('a wall', () => {
  test.each([
    ['a role that is told from', 'branch <> me.branch'],
    ['what is not so', 'not (branch = me.branch)'],
    ['what is missing', 'me.branch is null or branch = me.branch'],
    ['rows that are none', 'none(branch.players[branch = me.branch])'],
    ['what stands in the place of null', 'coalesce(me.name, name) = name'],
    ['what is not in a list', 'name not in (me.name)'],
  ])('that opens for an actor without the value says so: %s', (_, condition) => {
    expect(codes(`wall own on read\n  Player where ${condition}\n`)).toContain('wall-opens');
  });

  test.each([
    'branch = me.branch',
    'branch = me.branch and name is null',
    'id <> 3 and branch = me.branch',
    'not (name is null)',
  ])('that asks for what is wanted says nothing: %s', (condition) => {
    expect(codes(`wall own on read\n  Player where ${condition}\n`)).not.toContain('wall-opens');
  });

  test('is for entities and mixins that there are, and for one of its name', () => {
    expect(codes('wall own on read\n  Plyer where id > 0\n')).toEqual(['unknown-entity']);
    const twice = 'wall own on read\n  Player where id > 0\n\nwall own on read\n  Branch where id > 0\n';
    expect(codes(twice)).toEqual(['name-clash']);
  });

  test('frees by what is true of the actor alone', () => {
    expect(codes('wall own on read\n  Player where branch = me.branch\n  unless me.steward\n')).toEqual([]);
    expect(codes('wall own on read\n  Player where branch = me.branch\n  unless steward\n')).toEqual(['no-row']);
  });

  test('asks who is at work only where the tree says whose rows that is', () => {
    const nobody = TREE.replace('  actor Player\n', '');
    expect(told('wall own on read\n  Player where branch = me.branch\n', nobody).map(({ code }) => code)).toContain('no-actor');
  });

  test('no check of a row asks who is at work, since it holds whoever is', () => {
    const checked = TREE.replace(
      '  steward  boolean default false\n',
      '  steward  boolean default false\n  check mine: id = me.id\n',
    );
    expect(told('', checked).map(({ code }) => code)).toContain('out-of-reach');
  });

  test('a scope that asks who is at work is named by a query or another scope, and by nothing that rows have of themselves', () => {
    const scopes = 'scope mine\n  Player where id = me.id\n\nscope ours\n  Player where mine or branch = me.branch\n';
    const query = '\nquery q\n  from Player\n  where ours and any(branch.players[mine])\n';
    expect(codes(`${scopes}${query}`)).toEqual([]);
    const derived = TREE.replace('  steward ', '  is_mine = mine\n  steward ');
    const ruled = TREE.replace('  steward ', '  rule own: branch is null or mine\n  steward ');
    for (const tree of [derived, ruled])
      expect(told(scopes, tree).find(({ code }) => code === 'out-of-reach')?.message).toContain('scope mine asks who is at work');
  });
});

test('whoever is at work is named by one row, by nobody or by the system, and by nothing more', () => {
  const { actorOf } = readDesign(TREE);
  expect(actorOf('Player(2)').actor?.kind).toBe('row');
  expect(actorOf('nobody').actor).toEqual({ kind: 'nobody' });
  for (const named of [
    '',
    'me',
    'Branch(1)',
    'Player',
    "Player('x')",
    'Player(2) Player(3)',
    'Player(2); delete Player(3)',
    'Player(2)\nnobody',
  ])
    expect(actorOf(named).actor, named).toBeNull();
});

describe('a pin', () => {
  const pinned = (pin: string, on = '') => `wall own${on}\n  Player where branch = me.branch\n  pin ${pin}\n`;

  test('fills a field or a role that the row holds itself, for all that use a mixin', () => {
    expect(codes(pinned('Player.branch to me.branch'))).toEqual([]);
    expect(codes(pinned("Player.name to 'new'"))).toEqual([]);
    const mixed = TREE.replace('entity Branch', 'mixin Owned\n  owner_name  text(40) optional\n\nentity Branch').replaceAll(
      '  id  integer key\n',
      '  id  integer key\n  uses Owned\n',
    );
    const { model } = readDesign(`${mixed}\nwall own\n  Owned where id > 0\n  pin Owned.owner_name to me.name\n`);
    expect(Array.from(model.walls.get('own')?.pins.keys() ?? [])).toEqual(['Branch']);
  });

  test.each([
    ['a member that is not there', 'Player.brnch to me.branch', 'unknown'],
    ['a role that leads to many', 'Branch.players to me', 'computed-member'],
    ['a row of another entity', 'Player.branch to me', 'type-mismatch'],
    ['a value of another type', 'Player.name to 3', 'type-mismatch'],
  ])('is refused for %s', (_, pin, code) => {
    expect(codes(pinned(pin)).join()).toContain(code);
  });

  test('stands in no wall that is for reading alone', () => {
    expect(codes(pinned('Player.branch to me.branch', ' on read'))).toEqual(['pin-on-read']);
  });
});
