import AxeBuilder from '@axe-core/playwright';
import { expect, expectNothingWrong, openDemo, test, textOf, writeAtEnd } from './workbench.js';

const SHELVES = `
entity Shelf
  id     integer key
  label  text(20)

relation shelving
  Instrument knows at most one Shelf as shelf
  Shelf knows many Instrument as instruments

sample Shelf
  a: label 'By the window'
  b: label 'Under the stairs'
`;

test('from a sentence to rows: a typed relation is on the map, in the SQL and in a try, and is there after a reload', async ({
  page,
  workbench,
}) => {
  await openDemo(page, workbench);
  await writeAtEnd(page, SHELVES);
  await expect(page.getByRole('status', { name: 'Saving' })).toContainText('saved');
  await expect(page.getByLabel('Shelf, table shelves')).toBeVisible();

  await page.getByRole('link', { name: 'Try' }).click();
  await page.getByRole('textbox', { name: 'Query' }).click();
  await page.keyboard.press('Control+A');
  await page.keyboard.insertText('from Shelf\nload instruments (name)\norder by label');
  await page.getByLabel('Declared as').fill('');
  await page.getByRole('button', { name: /Run/ }).click();
  await expect(page.getByRole('status', { name: 'Outcome' })).toContainText('2 statements: 2 rows of Shelf');
  await expect(page.getByRole('treeitem', { name: 'By the window' })).toBeVisible();
  const log = page.getByRole('region', { name: 'Log' });
  await expect(log.getByRole('listitem', { name: /^Statement/ })).toHaveCount(2);
  await expect(log).toContainText('where instruments.shelf_id in (select value from json_each(:keys))');

  await page.reload();
  await expect(page.getByRole('textbox', { name: 'Query' })).toContainText('from Shelf');
  await page.getByRole('link', { name: /^Design/ }).click();
  await textOf(page).click();
  await page.keyboard.press('Control+End');
  await expect(textOf(page)).toContainText('Under the stairs');
});

test('selecting in the text selects on the map and its card, and back', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await textOf(page).click();
  await page.keyboard.press('Control+F');
  const find = page.getByRole('textbox', { name: 'Find', exact: true });
  await find.pressSequentially('relation borrowing');
  await find.press('Enter');
  await find.press('Escape');
  const card = page.getByRole('article', { name: 'Card of borrowing' });
  await expect(card).toContainText('A Loan knows one Player as borrower.');
  await expect(card).toContainText('by convention: the role and _id');
  await expect(card).toContainText('its loans go with it');
  await expect(page).toHaveURL(/select=relation%3Aborrowing/);

  await page.getByLabel('Loan, table loans').click();
  await expect(page.getByRole('article', { name: 'Card of Loan' })).toContainText('create table loans');
  await expect(textOf(page).getByText('entity Loan in loans')).toBeVisible();
  await page.getByRole('article').getByRole('button', { name: 'Player', exact: true }).click();
  await expect(page.getByRole('article', { name: 'Card of Player' })).toBeVisible();
});

test('a mistake is told with its line while typing, and mended by its fix', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await writeAtEnd(page, '\nscope late\n  Loan where due_no < today\n');
  const findings = page.getByRole('list', { name: 'Findings' });
  await expect(findings).toContainText('There is no field, role or scope of Loan called due_no. Did you mean due_on?');
  await findings.getByRole('button', { name: 'Write due_on' }).click();
  await expectNothingWrong(page);
});

test('a saved query asks for its row, and answers as a tree and as JSON', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await page.getByRole('link', { name: 'Try' }).click();
  await page.getByRole('button', { name: 'overdue_by_branch', exact: true }).click();
  await page.getByRole('button', { name: /Run/ }).click();
  await expect(page.getByRole('status', { name: 'Outcome' })).toContainText('The query needs a value for branch.');
  await page.getByLabel('branch', { exact: true }).selectOption('Mill Lane');
  await page.getByRole('button', { name: /Run/ }).click();
  await expect(page.getByRole('status', { name: 'Outcome' })).toContainText('5 statements');
  await expect(page.getByRole('treeitem', { name: 'Mill Lane' }).first()).toBeVisible();
  await page.getByRole('tab', { name: 'JSON' }).click();
  await expect(page.getByRole('tabpanel')).toContainText('"branch": {');
});

test('a server that is killed while somebody types takes nothing with it', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await writeAtEnd(page, '\n-- kept on the server\n');
  await expect(page.getByRole('status', { name: 'Saving' })).toContainText('saved');
  await page.keyboard.insertText('-- typed as it died\n');
  await workbench.kill();
  await page.keyboard.insertText('-- typed without it\n');
  await expect(page.getByRole('status', { name: 'Saving' })).toContainText('kept in this browser');
  await workbench.start();
  await expect(page.getByRole('status', { name: 'Saving' })).toContainText('✓ saved');
  await page.reload();
  await textOf(page).click();
  await page.keyboard.press('Control+End');
  for (const line of ['kept on the server', 'typed as it died', 'typed without it'])
    await expect(textOf(page)).toContainText(line);
});

test('a server that is gone while one changes screens is said, and the screen comes when it is back', async ({
  page,
  workbench,
}) => {
  await openDemo(page, workbench);
  await expect(page.getByText(/✓ [\d,]+ rows/)).toBeVisible();
  await workbench.kill();
  await page.getByRole('navigation', { name: 'Screens' }).getByRole('link', { name: /Rows/ }).click();
  await expect(page.getByRole('alert')).toContainText('The server does not answer');
  await page.getByRole('navigation', { name: 'Screens' }).getByRole('link', { name: /Try/ }).click();
  await page.getByRole('navigation', { name: 'Screens' }).getByRole('link', { name: /Rows/ }).click();
  await workbench.start();
  await expect(page.getByRole('grid')).toBeVisible();
  await expect(page.getByRole('grid').getByRole('row')).not.toHaveCount(1);
  await expect(page.getByText('The server does not answer')).toBeHidden();
});

test('what was changed is taken back after a reload, and after somebody else’s change', async ({ page, workbench, context }) => {
  await openDemo(page, workbench);
  await writeAtEnd(page, '\n-- of my own\n');
  await expect(page.getByRole('status', { name: 'Saving' })).toContainText('✓ saved');
  const other = await context.newPage();
  await other.goto(page.url());
  await textOf(other).click();
  await other.keyboard.press('Control+Home');
  await other.keyboard.insertText('-- theirs\n');
  await expect(other.getByRole('status', { name: 'Saving' })).toContainText('✓ saved');
  await expect(textOf(page)).toContainText('-- theirs');
  await page.reload();
  await textOf(page).waitFor();
  await page.getByRole('button', { name: 'Undo' }).click();
  await textOf(page).click();
  await page.keyboard.press('Control+End');
  await expect(textOf(page)).not.toContainText('-- of my own');
  await page.keyboard.press('Control+Home');
  await expect(textOf(page)).toContainText('-- theirs');
});

test('two pages on one tree: what stands apart is brought together as it is saved', async ({ page, workbench, context }) => {
  await openDemo(page, workbench);
  const other = await context.newPage();
  await other.goto(page.url());
  await textOf(other).waitFor();
  await writeAtEnd(other, '\n-- theirs\n');
  await expect(other.getByRole('status', { name: 'Saving' })).toContainText('✓ saved');
  await textOf(page).click();
  await page.keyboard.press('Control+End');
  await expect(textOf(page)).toContainText('-- theirs');
  await page.keyboard.press('Control+Home');
  await page.keyboard.insertText('-- mine\n');
  await expect(textOf(other).or(other.getByText('others’ changes are in')).first()).toBeVisible();
  await textOf(other).click();
  await other.keyboard.press('Control+Home');
  await expect(textOf(other)).toContainText('-- mine');
});

test('two pages on one tree: a clash shows both versions, and one is chosen for each place', async ({
  page,
  workbench,
  context,
}) => {
  await openDemo(page, workbench);
  const other = await context.newPage();
  await other.goto(page.url());
  await textOf(other).waitFor();
  // While the one cannot reach the server, both write the same line.
  await page.route('**/api/trees/*/text', (route) => route.abort());
  await page.route('**/api/trees/*', (route) => route.abort());
  await writeAtEnd(page, '\n-- mine\n');
  await expect(page.getByRole('status', { name: 'Saving' })).toContainText('kept in this browser');
  await writeAtEnd(other, '\n-- theirs\n');
  await expect(other.getByRole('status', { name: 'Saving' })).toContainText('✓ saved');
  await page.unroute('**/api/trees/*/text');
  await page.unroute('**/api/trees/*');
  const clash = page.getByRole('alertdialog', { name: 'Two versions' });
  await expect(clash).toContainText('-- mine');
  await expect(clash).toContainText('-- theirs');
  await expect(clash.getByRole('button', { name: '1 left to choose' })).toBeDisabled();
  await clash.getByRole('button', { name: 'Take both' }).click();
  await clash.getByRole('button', { name: 'Save what I chose' }).click();
  await expect(page.getByRole('status', { name: 'Saving' })).toContainText('✓ saved');
  await textOf(page).click();
  await page.keyboard.press('Control+End');
  for (const line of ['-- mine', '-- theirs']) await expect(textOf(page)).toContainText(line);
  const id = /tree\/([^/]+)/.exec(page.url())?.[1] ?? '';
  const before = (await (await page.request.get(`${workbench.address}api/trees/${id}/revisions/2`)).json()) as { text: string };
  expect(before.text).toContain('-- theirs');
  expect(before.text).not.toContain('-- mine');
});

test('each screen can be used without a mouse and is read aloud: no serious finding', async ({ page, workbench }) => {
  const serious = async (): Promise<string[]> => {
    const { violations } = await new AxeBuilder({ page }).analyze();
    return violations
      .filter(({ impact }) => impact === 'serious' || impact === 'critical')
      .map(({ id, nodes }) => `${id}: ${nodes[0]?.html}`);
  };
  await page.goto(workbench.address);
  await page.getByRole('button', { name: 'Open the demo' }).waitFor();
  expect(await serious()).toEqual([]);
  await openDemo(page, workbench);
  await page.getByLabel('Loan, table loans').waitFor();
  expect(await serious()).toEqual([]);
  await page.getByRole('link', { name: 'Try' }).click();
  await page.getByLabel('branch', { exact: true }).selectOption('Mill Lane');
  await page.keyboard.press('Tab');
  await page.getByRole('button', { name: /Run/ }).press('Enter');
  await expect(page.getByRole('status', { name: 'Outcome' })).toContainText('5 statements');
  expect(await serious()).toEqual([]);
  await page.getByRole('tab', { name: 'Table' }).click();
  expect(await serious()).toEqual([]);
  await page.getByRole('link', { name: /^Rows look/ }).click();
  await page.getByRole('button', { name: /^Loan/ }).click();
  await page.getByRole('row', { name: /2029-/ }).first().waitFor();
  expect(await serious()).toEqual([]);
  await page.getByRole('button', { name: 'Open row 1', exact: true }).click();
  await page.getByRole('heading', { name: 'It points at' }).waitFor();
  expect(await serious()).toEqual([]);
  await page.keyboard.press('?');
  await page.getByRole('dialog').waitFor();
  expect(await serious()).toEqual([]);
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Revisions' }).click();
  await page.getByRole('dialog').waitFor();
  expect(await serious()).toEqual([]);
});
