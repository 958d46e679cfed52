import { expect, test } from 'vitest';
import { preparedPlan } from '../../tests/prepared.js';
import { readDesign } from '../design/index.js';
import { heldKeys } from './index.js';

const MIXED = `tree 'Mixed'
entity Player
  id integer key
entity Branch
  code text(20) key
entity Remark
  id integer key
relation remarks
  Remark knows one Player | Branch as subject
  each knows many Remark as remarks
  stored in Remark.subject_type with Remark.subject_id
`;

test.each([
  ['sqlite', 'players.id = cast(remarks.subject_id as integer)'],
  ['postgres', 'players.id = case when'],
  ['mariadb', 'players.id = cast(remarks.subject_id as signed)'],
] as const)('on %s a key among keys of several types is sought as what it is, and then compared to the letter', (name, seek) => {
  const design = readDesign(MIXED, name);
  const { model, dialect } = design;
  const relation = model.relations.get('remarks');
  if (relation === undefined) throw new Error('the relation does not stand');
  const [player, branch] = heldKeys(model, relation).map(({ look, lost }) =>
    dialect.printQuery(preparedPlan(design, look.plan(lost, { kind: 'count', of: null })).compiled.select),
  );
  expect(player).toContain(seek);
  expect(player).toMatch(/cast\(players\.id as (text|char)/);
  expect(branch).not.toContain('cast(');
});
