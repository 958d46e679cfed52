import { expect, test } from 'vitest';
import { formerNamesOf } from '../changes/index.js';
import { readDesign } from '../design/index.js';
import { applied, withoutFormerNames } from './index.js';

const TEXT = `tree 'Was'

mixin Dated
  made_at  timestamp default now was created

entity Branch in houses was branches
  id    integer key
  name  text(40) was title, note 'was asked for'
  uses Dated

entity Player in "the players" was "old stage".players
  id    integer key
  home  text(40) optional was Branch.town default 'was here'

relation seating
  Player knows many Branch as branches
  Branch knows many Player as players
  stored in table seats (player_id, branch_id) was chairs
    number  integer optional was place

relation keeper
  Branch knows at most one Player as keeper
  Player knows many Branch as kept
  stored in Branch.kept_by as keeper was keeper_id
`;

test('every former name is taken out of a text, and nothing else of it changes', () => {
  const design = readDesign(TEXT);
  expect(design.findings.filter(({ weight }) => weight === 'error')).toEqual([]);
  const edits = withoutFormerNames(design.syntax, TEXT);
  const edited = applied(TEXT, edits);
  expect(edits).toHaveLength(8);
  expect(edited).toContain("name  text(40), note 'was asked for'\n");
  expect(edited).toContain("home  text(40) optional default 'was here'\n");
  expect(edited).toContain('entity Player in "the players"\n');
  const after = readDesign(edited);
  const named = formerNamesOf(after.syntax, after.model);
  expect([named.tables.size, named.columns.size]).toEqual([0, 0]);
  expect(after.schema).toEqual(design.schema);
});

test('a text without former names is left as it is', () => {
  const text = "tree 'Plain'\n\nentity Branch\n  id  integer key\n  was  text optional\n";
  expect(withoutFormerNames(readDesign(text).syntax, text)).toEqual([]);
});
