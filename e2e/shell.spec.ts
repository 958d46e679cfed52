import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, goTo, openDemo, test, textOf, writeAtEnd } from './workbench.js';

const saving = (page: Parameters<typeof textOf>[0]) => page.getByRole('status', { name: 'Saving' });

test('everything is one key away, also under the trade’s other words', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await page.keyboard.press('Control+K');
  const box = page.getByRole('combobox', { name: 'What to do' });
  await box.fill('foreign key borrower');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('article', { name: 'Card of borrowing' })).toBeVisible();
  await page.keyboard.press('Control+K');
  await box.fill('browse loans');
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/rows\/Loan/);
  await page.keyboard.press('Control+K');
  await box.pressSequentially('key loan');
  // Whatever was chosen on the way, the first of what fits now is.
  const options = page.getByRole('option');
  await expect.poll(async () => box.getAttribute('aria-activedescendant')).toBe(await options.first().getAttribute('id'));
  await page.keyboard.press('ArrowDown');
  await expect.poll(async () => box.getAttribute('aria-activedescendant')).toBe(await options.nth(1).getAttribute('id'));
  await box.fill('nothing goes by this');
  await expect(page.getByText('Nothing here goes by these words.')).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('dialog')).toBeHidden();
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog')).toContainText('A relation, once, as two sentences');
});

test('a change of the text is taken back and forth from the top bar, on any screen', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await writeAtEnd(page, '\nentity Bow\n  id integer key\n');
  await expect(page.getByLabel('Bow, table bows')).toBeVisible();
  await page.getByRole('link', { name: /^Rows look/ }).click();
  await expect(page.getByRole('button', { name: /^Bow/ })).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('button', { name: /^Bow/ })).toBeHidden();
  await page.getByRole('button', { name: 'Redo' }).click();
  await expect(page.getByRole('button', { name: /^Bow/ })).toBeVisible();
});

test('the revisions show what changed, and lead back', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await writeAtEnd(page, '\n-- a line too many\n');
  await expect(saving(page)).toContainText('✓ saved');
  await page.getByRole('button', { name: 'Revisions' }).click();
  const sheet = page.getByRole('dialog');
  await expect(sheet.getByRole('list', { name: 'Revisions' }).getByRole('listitem')).toHaveCount(2);
  await expect(sheet).toContainText('-- a line too many');
  await sheet.getByRole('button', { name: /^1 / }).click();
  await sheet.getByRole('button', { name: 'Go back to this text' }).click();
  await expect(saving(page)).toContainText('✓ saved');
  await textOf(page).click();
  await page.keyboard.press('Control+End');
  await expect(textOf(page)).not.toContainText('a line too many');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(textOf(page)).toContainText('a line too many');
});

test('the tour does six things on the real page', async ({ page, workbench }) => {
  await page.request.patch(`${workbench.address}api/preferences`, { data: { tour: '' } });
  await openDemo(page, workbench);
  const tour = page.getByRole('complementary', { name: 'Tour' });
  await tour.getByRole('button', { name: 'Select “borrowing”' }).click();
  await expect(page.getByRole('article', { name: 'Card of borrowing' })).toBeVisible();
  await tour.getByRole('button', { name: 'Write “Shelf” into the text' }).click();
  await expect(page.getByRole('article', { name: 'Card of Shelf' })).toBeVisible();
  await tour.getByRole('button', { name: 'Look at the loans' }).click();
  await expect(page.getByRole('grid', { name: 'Rows of Loan' })).toBeVisible();
  await tour.getByRole('button', { name: 'Open the overdue loans' }).click();
  await expect(page.getByRole('status', { name: 'Outcome' })).toContainText('5 statements');
  await tour.getByRole('button', { name: 'Take the wall of the loans away' }).click();
  const audit = page.getByRole('region', { name: 'The audit' });
  await expect(audit).toContainText('No wall stands on Loan', { timeout: 60_000 });
  await expect(audit).toContainText('Write “Loan where borrower.branch = me.branch” into wall own_branch');
  await audit.getByRole('button', { name: 'Stop' }).click();
  await tour.getByRole('button', { name: 'Open the palette' }).click();
  await expect(page.getByRole('combobox', { name: 'What to do' })).toBeVisible();
  await page.keyboard.press('Escape');
  await page.reload();
  await expect(page.getByRole('heading', { name: /Cinder Row/ })).toBeVisible();
  await expect(tour).toBeHidden();
});

test('a file of one’s own is saved to, and what another program changes in it comes in', async ({ page, workbench }) => {
  const file = join(workbench.folder, 'mine.kin');
  writeFileSync(file, "tree 'Mine'\n\nentity Bow\n  id    integer key\n  name  text(20)\n");
  await page.goto(await workbench.open(file));
  await expect(saving(page)).toContainText('saved to mine.kin');
  await writeAtEnd(page, '  length  integer optional\n');
  await expect.poll(() => readFileSync(file, 'utf8')).toContain('length  integer optional');

  writeFileSync(file, readFileSync(file, 'utf8').replace("tree 'Mine'", "tree 'Mine, edited elsewhere'"));
  await expect(page.getByRole('heading', { name: 'Mine, edited elsewhere' })).toBeVisible();
  await expect(textOf(page)).toContainText('length  integer optional');
});

test('a file that is changed elsewhere in the same lines shows both, and is not written over', async ({ page, workbench }) => {
  const file = join(workbench.folder, 'mine.kin');
  writeFileSync(file, "tree 'Mine'\n\nentity Bow\n  id    integer key\n");
  await page.goto(await workbench.open(file));
  await expect(saving(page)).toContainText('saved to mine.kin');
  await page.route('**/api/trees/*/text', (route) => route.abort());
  await page.route('**/api/trees/*', (route) => route.abort());
  await writeAtEnd(page, '  here  integer optional\n');
  await expect(saving(page)).toContainText('kept in this browser');
  writeFileSync(file, `${readFileSync(file, 'utf8')}  there  integer optional\n`);
  await page.waitForTimeout(500);
  await page.unroute('**/api/trees/*/text');
  await page.unroute('**/api/trees/*');
  const clash = page.getByRole('alertdialog', { name: 'Two versions' });
  await expect(clash).toContainText('here  integer optional');
  await expect(clash).toContainText('there  integer optional');
  expect(readFileSync(file, 'utf8')).not.toContain('  here  ');
  await clash.getByRole('button', { name: 'Take both' }).click();
  await clash.getByRole('button', { name: 'Save what I chose' }).click();
  await expect.poll(() => readFileSync(file, 'utf8')).toContain('  here  integer optional\n  there  integer optional');
});

test('findings are counted on every screen, and lead to their line', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await writeAtEnd(page, '\nscope late\n  Loan where due_no < today\n');
  await page.getByRole('link', { name: /^Rows look/ }).click();
  await page.getByRole('button', { name: '2 findings, 1 error' }).click();
  await page.getByRole('button', { name: /called due_no/ }).click();
  await expect(page).toHaveURL(/design\?at=/);
  await expect(textOf(page)).toContainText('due_no');
});

test('where one stands is in the address: screen, selection, filter', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await goTo(page, 'rows/Player?where=count(loans)%20%3E%2014&order=name%20desc');
  await expect(page.getByRole('columnheader', { name: /name/ })).toHaveAttribute('aria-sort', 'descending');
  await expect(page.getByRole('textbox', { name: 'Filter' })).toContainText('count(loans) > 14');
});
