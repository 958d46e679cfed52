import { expect, goTo, openDemo, test } from './workbench.js';

test('the ways to load are measured in the background, proved equal, and one is named that is to be taken', async ({
  page,
  workbench,
}) => {
  await openDemo(page, workbench);
  await goTo(page, 'try?query=last_loans&run=1');
  await expect(page.getByRole('status', { name: 'Outcome' })).toContainText('3 statements: 100 rows of Player');
  await page.getByRole('button', { name: 'Ways to load' }).click();
  const ways = page.getByRole('region', { name: 'Ways to load' });
  await expect(ways.getByRole('status', { name: 'Which way to take' })).toContainText(/^Load by \w+: \d+ statement/);
  const costs = ways.getByRole('table', { name: 'What each way costs' });
  await expect(costs.getByRole('row', { name: /^by join/ })).toContainText('✓ equal');
  await expect(costs.getByRole('row', { name: /^by json/ })).toContainText('✓ equal');
  await expect(costs.getByRole('row', { name: /^by row/ })).toContainText('✓ equal');
  await costs.getByRole('button', { name: 'by json' }).click();
  await expect(ways.getByRole('figure', { name: 'by json, statement 1' })).toContainText('json_group_array');
  // Far from the database the one statement is worth more than what it brings.
  await ways.getByRole('slider').fill('100');
  await expect(ways.getByRole('status', { name: 'Which way to take' })).toContainText(/^Load by (json|join)/);
  await expect(ways.getByRole('figure', { name: 'Milliseconds by rows, for each way' })).toBeVisible();
  await ways.getByText('The figures of the chart').click();
  await expect(ways.getByRole('table', { name: 'How each way grows' }).getByRole('row')).not.toHaveCount(2);
  await ways.getByRole('button', { name: 'Close' }).click();
  await expect(ways).toBeHidden();
});

test('measuring is stopped by whoever began it', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await goTo(page, 'try?text=from%20Player%0Aload%20loans%0A%20%20instrument%0A%20%20%20%20loans&run=1');
  await page.getByRole('button', { name: 'Ways to load' }).click();
  const ways = page.getByRole('region', { name: 'Ways to load' });
  await ways.getByRole('button', { name: 'Stop measuring' }).click();
  await expect(ways.getByRole('button', { name: 'Stop measuring' })).toBeHidden();
  await expect(ways.getByRole('status', { name: 'Which way to take' })).toHaveText('Nothing could be measured.');
});

test('a flat answer is a table of what it shows, and says whether there is any row', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await goTo(page, 'try?query=busiest_branches&run=1');
  await expect(page.getByRole('status', { name: 'Outcome' })).toContainText(/1 statement: \d lines/);
  const table = page.getByRole('region', { name: 'Answer as a table' });
  await expect(table.getByRole('columnheader', { name: 'last_due' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Ways to load' })).toBeHidden();
  await goTo(page, 'try?text=from%20Loan%3B%20where%20overdue%3B%20exists&run=1');
  await expect(page.getByRole('status', { name: 'Outcome' })).toContainText('1 statement: there is one');
});

test('a list that shows a related name is told how often it asks, and is mended by a click', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await goTo(page, 'try?text=from%20Loan%0Alimit%20200&run=1');
  await page.getByRole('button', { name: 'What the page reads' }).click();
  const panel = page.getByRole('region', { name: 'What the page reads' });
  await panel.getByRole('textbox', { name: 'Paths that the page reads' }).fill('borrower.name, due_on');
  await page.keyboard.press('Enter');
  await expect(panel.getByRole('status', { name: 'As the page reads it' })).toContainText(
    '201 statements as the page reads it, 2,001 with ten times the rows; with “load borrower (name)”: 2; same answer.',
  );
  await panel.getByRole('button', { name: 'Add “load borrower (name)” and run' }).click();
  await expect(page.getByRole('status', { name: 'Outcome' })).toContainText('2 statements: 200 rows of Loan');
  await expect(page.getByRole('textbox', { name: 'Query' })).toContainText('load borrower (name)');
  await panel.getByRole('textbox', { name: 'Paths that the page reads' }).fill('borrower.shoe');
  await page.keyboard.press('Enter');
  await expect(panel.getByText('Player has no field or role called shoe')).toBeVisible();
});

test('a pasted log is held against the design: what was asked once for each row, and the load in its place', async ({
  page,
  workbench,
}) => {
  await openDemo(page, workbench);
  await goTo(page, 'try');
  await page.getByRole('button', { name: 'Read a statement log…' }).click();
  const dialog = page.getByRole('dialog', { name: 'A statement log' });
  const asked = Array.from({ length: 30 }, (_, at) => `select id, name from players where id = ${at} limit 1`);
  const log = ['(4ms) select * from loans order by due_on', ...asked, "(90ms) select * from players where name = 'Ines'"];
  await dialog.getByRole('textbox', { name: 'Or paste it' }).fill(log.join('\n'));
  await dialog.getByRole('button', { name: 'Read what is pasted' }).click();
  await expect(dialog.getByRole('status', { name: 'What the log says' })).toContainText(
    '32 statements of 3 shapes; 30 of them were asked once for each row.',
  );
  await expect(dialog.getByRole('region', { name: 'Asked once for each row' })).toContainText('Loan.borrower, over borrowing');
  await expect(dialog.getByRole('region', { name: 'Without an index' })).toContainText('in Player: index (name)');
  await dialog.getByRole('button', { name: 'load borrower' }).click();
  await expect(dialog).toBeHidden();
  await expect(page.getByRole('textbox', { name: 'Query' })).toContainText('load borrower');
});
