import { join } from 'node:path';
import { expect, test } from 'vitest';
import { temporaryFolder } from '../../tests/database.js';
import { openStore } from './index.js';

test('the entities of a tree are counted as the notation reads them, not by the words that begin its lines', () => {
  const folder = temporaryFolder();
  const { store } = openStore(join(folder.path, 'store.db'));
  const text =
    'tree library\n\nentity\tPlayer\n  id  integer key\n\n-- entity Loan comes later\nentity Branch\n  id  integer key\n';
  const { id, revision } = store.add('library', text, 'made', null);
  expect(store.entitiesOf(id, revision)).toBe(2);
  store.close();
  folder.remove();
});
