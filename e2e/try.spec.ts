import { expect, goTo, openDemo, test, textOf } from './workbench.js';

test('the answer is a tree, a table and JSON; the log has the plan, with full scans marked', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await goTo(page, 'try?query=overdue_by_branch&p.branch=2');
  await page.getByRole('button', { name: /Run/ }).click();
  await expect(page.getByRole('status', { name: 'Outcome' })).toContainText('5 statements');
  await page.getByRole('tab', { name: 'Table' }).click();
  const table = page.getByRole('region', { name: 'Answer as a table' });
  await expect(table.getByRole('columnheader', { name: 'borrower.name', exact: true })).toBeVisible();
  await expect(table.getByRole('columnheader', { name: 'instrument.remarks', exact: true })).toBeVisible();
  const log = page.getByRole('region', { name: 'Log' });
  await log
    .getByRole('listitem', { name: 'Statement 2', exact: true })
    .getByRole('button', { name: 'plan', exact: true })
    .click();
  await expect(log.getByRole('list', { name: 'Plan of statement 2' })).toContainText('finds rows of players by the key');

  await page.getByRole('textbox', { name: 'Query' }).click();
  await page.keyboard.press('Control+A');
  await page.keyboard.insertText("from Remark\nwhere body like '%reset%'");
  await page.getByLabel('Declared as').fill('');
  await page.keyboard.press('Tab');
  await page.getByRole('button', { name: /Run/ }).click();
  await log.getByRole('button', { name: 'plan: full scan' }).click();
  await expect(log.getByRole('list', { name: 'Plan of statement 1' })).toContainText('reads every row of remarks');
});

test('a run is compared with the one before it, and the lines that are new are marked', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await goTo(page, 'try?text=from%20Branch');
  await page.getByRole('button', { name: /Run/ }).click();
  await expect(page.getByRole('status', { name: 'Outcome' })).toContainText('1 statement: 5 rows of Branch');
  await page.getByRole('textbox', { name: 'Query' }).click();
  await page.keyboard.press('Control+End');
  await page.keyboard.insertText("\nwhere town = 'Ferren'");
  await page.keyboard.press('Control+Enter');
  await expect(page.getByText('against the run before:')).toBeVisible();
  await expect(page.getByText('−3 rows')).toBeVisible();
  await page.keyboard.press('Control+Enter');
  await expect(page.getByText('✓ same answer')).toBeVisible();
});

test('what was tried is kept into the text by its name, and is run again from the list', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await goTo(page, 'try?text=from%20Hall%0Aload%20concerts');
  await page.getByRole('button', { name: /Run/ }).click();
  await expect(page.getByRole('status', { name: 'Outcome' })).toContainText('2 statements: 4 rows of Hall');
  await page.getByRole('button', { name: 'Keep it in the text' }).click();
  await page.getByLabel('Its name').fill('halls_with_concerts');
  await page.keyboard.press('Enter');
  const queries = page.getByRole('navigation', { name: 'Saved queries' });
  await expect(queries.getByRole('button', { name: 'halls_with_concerts' })).toBeVisible();
  await queries.getByRole('button', { name: 'worn_instruments' }).click();
  await expect(page.getByRole('textbox', { name: 'Query' })).toContainText("condition <> 'mint'");
  await queries.getByRole('button', { name: /from Hall load concerts/ }).click();
  await expect(page.getByRole('textbox', { name: 'Query' })).toContainText('from Hall');
  await page.getByRole('link', { name: /^Design/ }).click();
  await textOf(page).click();
  await page.keyboard.press('Control+F');
  await page.getByRole('textbox', { name: 'Find', exact: true }).pressSequentially('query halls_with_concerts');
  await page.keyboard.press('Enter');
  await expect(textOf(page)).toContainText('query halls_with_concerts');
});

test('a query on one line of an address stands in lines, and is run', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await goTo(page, 'try?text=from%20Player;%20where%20email%20=%20%27ines@example.org%27;%20load%20branch%20(name)&run=1');
  await expect(page.getByRole('status', { name: 'Outcome' })).toContainText('2 statements');
  await expect(page.getByRole('textbox', { name: 'Query' })).not.toContainText(';');
  await page.getByRole('textbox', { name: 'Query' }).click();
  await page.keyboard.press('Control+A');
  await page.keyboard.insertText('from Player; limit 3');
  await page.getByRole('button', { name: /Run/ }).click();
  await expect(page.getByRole('status', { name: 'Outcome' })).toContainText('3 rows');
  await expect(page.getByRole('textbox', { name: 'Query' })).toContainText('from Player; limit 3');
});

test('a query is completed from what its entity knows', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await goTo(page, 'try?text=from%20Player%0A');
  await page.getByRole('textbox', { name: 'Query' }).click();
  await page.keyboard.press('Control+End');
  await page.keyboard.type('load ens');
  await expect(page.getByRole('option', { name: /ensembles/ })).toBeVisible();
  // The list does not take a key that was on its way when it opened.
  await page.waitForTimeout(150);
  await page.keyboard.press('Tab');
  await expect(page.getByRole('textbox', { name: 'Query' })).toContainText('load ensembles');
});

test('a runaway is stopped at once by a button', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  const many = Array.from({ length: 6 }, () => 'count(borrower.loans.instrument.loans.borrower.loans)').join(' + ');
  await goTo(page, `try?${new URLSearchParams({ text: `from Loan\nwhere ${many} < 0` }).toString()}`);
  await page.getByRole('button', { name: /Run/ }).click();
  await page.getByRole('button', { name: 'Stop', exact: true }).click();
  await expect(page.getByRole('status', { name: 'Outcome' })).toContainText('Stopped.');
  await page.getByRole('textbox', { name: 'Query' }).click();
  await page.keyboard.press('Control+A');
  await page.keyboard.insertText('from Hall');
  await page.keyboard.press('Control+Enter');
  await expect(page.getByRole('status', { name: 'Outcome' })).toContainText('4 rows of Hall');
});

test('two pages on one tree: one that is closed takes its own runaway with it, and nothing of the other', async ({
  page,
  workbench,
  context,
}) => {
  await openDemo(page, workbench);
  const many = Array.from({ length: 6 }, (_, index) => `count(borrower.loans.instrument.loans.borrower.loans[id > ${index}])`);
  await goTo(page, `try?${new URLSearchParams({ text: `from Loan\nwhere ${many.join(' + ')} < 0` }).toString()}`);
  await page.getByRole('button', { name: /Run/ }).click();
  await expect(page.getByRole('button', { name: 'Stop', exact: true })).toBeVisible();
  const other = await context.newPage();
  // What somebody waits for at a page is answered beside the runaway, a query of the same sort behind it.
  await other.goto(page.url().replace(/try\?.*$/, 'rows/Hall'));
  await expect(other.getByRole('grid').getByText('Corn Exchange').first()).toBeVisible();
  await other.goto(page.url().replace(/try\?.*$/, 'try?text=from%20Hall'));
  await other.getByRole('button', { name: /Run/ }).click();
  await page.close();
  await expect(other.getByRole('status', { name: 'Outcome' })).toContainText('4 rows of Hall');
});
