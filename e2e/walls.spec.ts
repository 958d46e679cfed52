import { expect, goTo, openDemo, replaceText, test } from './workbench.js';

const WALL = '\nwall own_branch on read\n  Player where branch = me.branch\n';

test('a query is asked on behalf of somebody: what a wall keeps from them is hidden, and told apart from none', async ({
  page,
  workbench,
}) => {
  await openDemo(page, workbench);
  await replaceText(page, (text) => `${text.replace('\n', '\n  actor Player\n')}${WALL}`);
  await expect(page.getByRole('banner')).toContainText('✓ 4,038 rows');
  await goTo(page, `try?text=${encodeURIComponent('from Card\nload player (name)\norder by id\nlimit 3')}`);
  const answer = page.getByRole('tree');
  await page.getByRole('button', { name: /^Run/ }).click();
  await expect(answer).toContainText('Ines Quill');
  await page.getByLabel('Working as').selectOption('a row of Player');
  await page.getByRole('combobox', { name: 'The Player at work' }).fill('Omar');
  await page.getByRole('option', { name: /Omar Marsh/ }).click();
  await page.getByRole('button', { name: /^Run/ }).click();
  await expect(answer.getByRole('treeitem', { name: 'player, hidden' })).toHaveCount(2);
  await expect(answer).toContainText('Omar Marsh');
  await expect(answer).not.toContainText('Ines Quill');
  await expect(page).toHaveURL(/as=Player%282%29/);
  await page.getByRole('tab', { name: 'Table' }).click();
  await expect(page.getByRole('region', { name: 'Answer as a table' })).toContainText('hidden');
  // Sent to a colleague, the address asks the same.
  await page.reload();
  await expect(page.getByRole('combobox', { name: 'The Player at work' })).toHaveValue('Player(2)');
  await page.getByLabel('Working as').selectOption('nobody');
  await page.getByRole('button', { name: /^Run/ }).click();
  await page.getByRole('tab', { name: 'Table' }).click();
  const table = page.getByRole('region', { name: 'Answer as a table' });
  await expect(table.getByText('hidden')).toHaveCount(3);
  await expect(table).not.toContainText('Omar Marsh');
});
