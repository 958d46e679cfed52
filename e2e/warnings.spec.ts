import { expect, goTo, openDemo, test } from './workbench.js';

const address = (query: string) => `try?text=${encodeURIComponent(query)}&run=1`;

test('a list that shows a related name is warned about as it is run, and a click mends the query', async ({
  page,
  workbench,
}) => {
  await openDemo(page, workbench);
  await goTo(page, address('from Loan\norder by id\nlimit 40\nreads borrower.name, due_on'));
  const warnings = page.getByRole('region', { name: 'Warnings' });
  await expect(warnings).toContainText('The page reads borrower, which is not loaded');
  await expect(warnings).toContainText('Some 40 statements more for these 40 rows.');
  await warnings.getByRole('button', { name: 'Add load borrower (name)', exact: true }).click();
  await expect(page.getByRole('status', { name: 'Outcome' })).toContainText('2 statements: 40 rows of Loan');
  await expect(warnings).toBeHidden();
  await expect(page.getByRole('textbox', { name: 'Query' })).toContainText('load borrower (name)');
});

test('two joined loads are told by the lines that they multiply to, and one goes by batch', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await goTo(page, address('from Player\nload loans by join\nload ensembles by join\norder by id\nlimit 20'));
  const warnings = page.getByRole('region', { name: 'Warnings' });
  await expect(warnings).toContainText('loans and ensembles are both joined');
  await expect(warnings).toContainText(/\d+ lines for 20 rows with \d+ loans and \d+ ensembles/);
  await warnings.getByRole('button', { name: 'Load ensembles by batch', exact: true }).click();
  await expect(page.getByRole('status', { name: 'Outcome' })).toContainText('2 statements');
  await expect(warnings).not.toContainText('both joined');
});

test('what no index helps is told with its plan, and the index is added to the design', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await goTo(page, address('from Loan\nwhere returned_on is null\norder by lent_on, id\nlimit 5'));
  const warnings = page.getByRole('region', { name: 'Warnings' });
  await expect(warnings).toContainText('sought by returned_on, with which no index of loans begins: all 1,600 rows are read');
  await expect(warnings).toContainText('The plan: reads every row of loans.');
  await warnings.getByRole('button', { name: 'Add index (returned_on) to Loan', exact: true }).click();
  await page.getByRole('button', { name: /^Run/ }).click();
  await expect(page.getByRole('status', { name: 'Outcome' })).toContainText('5 rows of Loan');
  await expect(warnings).toBeHidden();
  await goTo(page, 'design?select=entity:Loan');
  await expect(page.getByRole('textbox', { name: 'Text of the tree' })).toContainText('index (returned_on)');
});

test('a page says of how many rows it is, and the plans what their steps found', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await goTo(page, address('from Loan\nload borrower (name)\norder by lent_on, id\nlimit 5'));
  const outcome = page.getByRole('status', { name: 'Outcome' });
  await expect(outcome).toContainText('2 statements: 5 rows of Loan');
  await page.getByRole('button', { name: 'Of how many?' }).click();
  await expect(outcome).toContainText('3 statements: 5 of 1,600 rows of Loan');
  await page.getByRole('button', { name: 'measure the plans' }).click();
  const log = page.getByRole('region', { name: 'Log' });
  await expect(log.getByRole('list', { name: 'Plan of statement 1' })).toContainText('found 1,600');
  // The line of the query that a statement comes from leads to it.
  await page.getByRole('textbox', { name: 'Query' }).getByText('borrower').click();
  await expect(log.getByRole('listitem', { name: 'Statement 2' })).toHaveAttribute('aria-current', 'true');
});

test('plain SQL that reads is answered with its plan, and what does more is not run', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await goTo(page, 'try');
  await page.getByRole('button', { name: 'Plain SQL, read-only…' }).click();
  const sql = page.getByRole('textbox', { name: 'SQL' });
  const write = async (statement: string) => {
    await sql.click();
    await page.keyboard.press('Control+A');
    await page.keyboard.insertText(statement);
    await page.keyboard.press('Control+Enter');
  };
  await write('select condition, count(*) as n from instruments group by condition');
  const outcome = page.getByRole('status', { name: 'Outcome' });
  await expect(outcome).toContainText('1 statement: 3 lines.');
  await expect(
    page.getByRole('region', { name: 'Answer as a table' }).getByRole('columnheader', { name: 'n', exact: true }),
  ).toBeVisible();
  await page.getByRole('button', { name: 'plan: full scan' }).click();
  await expect(page.getByRole('list', { name: 'Plan of statement 1' })).toContainText('instruments');
  await write('delete from loans');
  await expect(outcome).toContainText('Only what reads is run here');
  await page.reload();
  await expect(sql).toContainText('delete from loans');
  await page.getByRole('button', { name: 'Back to queries' }).click();
  await expect(page.getByRole('textbox', { name: 'Query' })).toBeVisible();
});

test('a list is given for a parameter with commas between', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await goTo(
    page,
    `try?text=${encodeURIComponent('from Instrument\nwhere condition in :wanted\ncount')}&head=${encodeURIComponent('wanted many Condition')}`,
  );
  await page.getByLabel('wanted', { exact: true }).fill('worn, broken');
  await page.getByRole('button', { name: /^Run/ }).click();
  await expect(page.getByRole('status', { name: 'Outcome' })).toContainText('1 statement: a count');
  await expect(page.getByRole('listitem', { name: 'Statement 1' })).toContainText("'worn'");
});
