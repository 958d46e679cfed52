import { expect, openDemo, test, textOf, writeAtEnd } from './workbench.js';

test('an empty tree says what to do, and shows the first entity as it is written', async ({ page, workbench }) => {
  await page.goto(workbench.address);
  await expect(page.getByText('The shelf is empty.')).toBeVisible();
  await page.getByRole('button', { name: 'Start an empty tree' }).click();
  await expect(page.getByLabel('Branch, table branches')).toBeVisible();
  await textOf(page).click();
  await page.keyboard.press('Control+A');
  await page.keyboard.press('Delete');
  await expect(page.getByText('No entity yet.')).toBeVisible();
  await page.keyboard.insertText("tree 'Mine'\n\nentity Bow\n  id integer key\n");
  await expect(page.getByLabel('Bow, table bows')).toBeVisible();
  await expect(page.getByRole('heading', { name: 'Mine' })).toBeVisible();
  await page.getByRole('link', { name: 'Shelf' }).click();
  await expect(page.getByRole('link', { name: /Mine/ })).toContainText('1 entity');
});

test('an entity is found on the map by its name', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await page.getByRole('searchbox', { name: 'Find an entity on the map' }).fill('Concert');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('article', { name: 'Card of Concert' })).toBeVisible();
  await expect(page).toHaveURL(/select=entity%3AConcert/);
});

test('the map is worked with the keyboard, and the list beside it leads to the same cards', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await page.getByLabel('Tag, table tags').focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('article', { name: 'Card of Tag' })).toBeVisible();
  await page.goto(page.url().split('?')[0] ?? '');
  await page.getByRole('button', { name: 'duets', exact: true }).click();
  await expect(page.getByRole('article', { name: 'Card of duets' })).toContainText('both ways');
});

test('what is selected stands in the address, and is there for whoever opens it', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  const address = page.url();
  await page.goto(`${address}?select=relation:seating`);
  const card = page.getByRole('article', { name: 'Card of seating' });
  await expect(card).toContainText('A Player knows many Ensemble as ensembles.');
  await expect(card).toContainText('create table seats');
});

test('a loose text is brought into its form, and can be taken back', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await writeAtEnd(page, '\nentity   Bow\n     id    integer   key\n');
  await page.getByRole('button', { name: 'Format' }).click();
  await expect(textOf(page)).toContainText('entity Bow');
  await expect(page.getByLabel('Bow, table bows')).toBeVisible();
  await textOf(page).click();
  await page.keyboard.press('Control+Z');
  await page.keyboard.press('Control+End');
  await expect(textOf(page)).toContainText('entity   Bow');
});

test('light and dark are remembered, on another page too', async ({ page, workbench }) => {
  await page.goto(workbench.address);
  await page.getByRole('button', { name: 'Turn the page dark' }).click();
  await page.evaluate(() => localStorage.clear());
  await page.reload();
  await expect(page.getByRole('button', { name: 'Turn the page light' })).toBeVisible();
});

test('samples that cannot be made are counted, and told behind the count', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await writeAtEnd(page, "\nentity Size\n  id    integer key\n  name  text(1) unique in ('S', 'M')\n\nsample Size 5\n");
  await page.getByRole('button', { name: '1 could not be made as asked' }).click();
  await expect(page.getByText('Size: 3 rows not made, name unique')).toBeVisible();
});

test('a typed query may declare parameters, and its mistakes are told with their place', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await page.getByRole('link', { name: 'Try' }).click();
  await page.getByRole('textbox', { name: 'Query' }).click();
  await page.keyboard.press('Control+A');
  await page.keyboard.insertText('from Loan\nwhere due_on > :since and borrwer is not null');
  await page.getByLabel('Declared as').fill('since date');
  await page.getByLabel('since', { exact: true }).fill('2031-05-01');
  await page.getByRole('button', { name: /Run/ }).click();
  const outcome = page.getByRole('status', { name: 'Outcome' });
  await expect(outcome).toContainText('called borrwer. Did you mean borrower?');
  await page.getByRole('textbox', { name: 'Query' }).click();
  await page.keyboard.press('Control+A');
  await page.keyboard.insertText('from Loan\nwhere due_on > :since and borrower is not null\ncount');
  await page.keyboard.press('Control+Enter');
  await expect(outcome).toContainText('1 statement: a count');
  await page.reload();
  await expect(page.getByLabel('since', { exact: true })).toHaveValue('2031-05-01');
});

test('a tree that is not there says so and leads back', async ({ page, workbench }) => {
  await page.goto(`${workbench.address}tree/nothing/design`);
  await expect(page.getByText('This tree is not there.')).toBeVisible();
  await page.getByRole('link', { name: 'Go to the shelf' }).click();
  await expect(page.getByRole('heading', { name: 'Your designs' })).toBeVisible();
});
