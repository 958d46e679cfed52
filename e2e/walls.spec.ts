import { expect, goTo, openDemo, replaceText, test } from './workbench.js';

test('whoever is at work is chosen once, and holds on every screen: what walls keep from them is hidden, and not written', async ({
  page,
  workbench,
}) => {
  await openDemo(page, workbench);
  await expect(page.getByRole('banner')).toContainText('✓ 4,038 rows');
  await goTo(page, `try?text=${encodeURIComponent('from Remark\nload author (name)\norder by id\nlimit 30')}`);
  const answer = page.getByRole('tree');
  await page.getByRole('button', { name: /^Run/ }).click();
  await expect(answer.getByRole('treeitem', { name: 'author, hidden' })).toHaveCount(0);
  await page.getByRole('button', { name: 'Working as system' }).click();
  await page.getByRole('combobox', { name: 'The Player at work' }).fill('Omar');
  await page.getByRole('option', { name: /Omar Marsh/ }).click();
  const chip = page.getByRole('button', { name: 'Working as Omar Marsh' });
  await expect(chip).toBeVisible();
  await expect(page).toHaveURL(/as=Player%282%29/);
  await page.getByRole('button', { name: /^Run/ }).click();
  await expect(answer.getByRole('treeitem', { name: 'author, hidden' }).first()).toBeVisible();
  await page.getByRole('tab', { name: 'Table' }).click();
  await expect(page.getByRole('region', { name: 'Answer as a table' })).toContainText('hidden');

  // The same on Rows: fewer players, hidden borrowers, and a typed address that leads nowhere.
  await page.getByRole('link', { name: /^Rows/ }).click();
  await page
    .getByRole('navigation', { name: 'Entities' })
    .getByRole('button', { name: /^Player/ })
    .click();
  await expect(page).toHaveURL(/as=Player%282%29/);
  const grid = page.getByRole('grid');
  await expect(grid).toContainText('Omar Marsh');
  await expect(grid).not.toContainText('Ines Quill');
  await page.goto(page.url().replace(/\/rows\/.*/, '/rows/Player/1?as=Player%282%29'));
  await expect(page.getByRole('main')).toContainText('There is no Player with the key 1.');
  await page.getByRole('button', { name: 'Is it hidden from Player(2)?' }).click();
  const why = page.getByRole('region', { name: 'Why, as Player(2)' });
  await expect(why).toContainText('It is hidden.');
  await expect(why).toContainText('branch = me.branch');
  await page
    .getByRole('navigation', { name: 'Entities' })
    .getByRole('button', { name: /^Remark/ })
    .click();
  await expect(grid.getByText('hidden').first()).toBeVisible();
  await expect(page).toHaveURL(/as=Player%282%29/);

  // A key that is sent by hand is not written either.
  await goTo(page, `try?as=Player(2)&text=${encodeURIComponent("update Player(1) with name 'Taken'")}`);
  await page.getByRole('button', { name: 'Rehearse Ctrl ↵' }).click();
  await expect(page.getByRole('main')).toContainText('there is no such row of Player');
  await page.getByRole('button', { name: 'Working as Omar Marsh' }).click();
  await page.getByRole('button', { name: 'system sees all rows' }).click();
  await page.getByRole('button', { name: 'Rehearse Ctrl ↵' }).click();
  await expect(page.getByRole('main')).toContainText("'Taken'");
});

test('an address says on whose behalf, and nobody sees what asks who they are', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await expect(page.getByRole('banner')).toContainText('✓ 4,038 rows');
  await goTo(page, 'rows/Player?as=nobody');
  await expect(page.getByRole('button', { name: 'Working as nobody' })).toBeVisible();
  await expect(page.getByRole('main')).toContainText('0 rows');
  await page.goBack();
  await expect(page.getByRole('button', { name: 'Working as system' })).toBeVisible();
});

test('Reach says who sees and changes what, a cell opens those rows, and a wall that is taken away opens them to all', async ({
  page,
  workbench,
}) => {
  await openDemo(page, workbench);
  await page.getByRole('link', { name: /^Reach/ }).click();
  const matrix = page.getByRole('region', { name: 'Who reaches which rows' });
  await expect(matrix.getByRole('button', { name: /^Remark as nobody: 420 seen, 0 changed/ })).toBeVisible();
  await expect(matrix.getByRole('columnheader', { name: /Ines Quill a row of Player of whom me.steward is true/ })).toBeVisible();
  const walls = page.getByRole('region', { name: 'The walls in words' });
  await expect(walls).toContainText('Of Card and Reservation only rows where player_id = me.id are seen and changed.');
  await expect(page.getByRole('region', { name: 'What sees over a wall' })).toContainText('busiest_branches');
  const cell = matrix.getByRole('button', { name: /^Loan as Ines Quill/ });
  const [, seen = ''] = /: (\d+) seen/.exec((await cell.getAttribute('aria-label')) ?? '') ?? [];
  await cell.click();
  await expect(page.getByRole('main')).toContainText(`${seen} rows`);
  await expect(page).toHaveURL(/rows\/Loan.*as=Player%281%29/);
  await page.getByRole('link', { name: /^Design/ }).click();
  await replaceText(page, (text) => text.replace(/wall own_branch[\s\S]*?\n\n/, '').replace('  lift own_branch\n', ''));
  await page.getByRole('link', { name: /^Reach/ }).click();
  await expect(matrix.getByRole('button', { name: /^Loan as Ines Quill: 1600 seen/ })).toBeVisible();
});

test('the same query as two actors, side by side: what one sees and the other does not, and which line of which wall says so', async ({
  page,
  workbench,
}) => {
  await openDemo(page, workbench);
  await expect(page.getByRole('banner')).toContainText('✓ 4,038 rows');
  await goTo(page, `try?as=Player(2)&text=${encodeURIComponent('from Player\nwhere id < 9\nload loans (lent_on)\norder by id')}`);
  await page.getByRole('button', { name: /^Run/ }).click();
  await page.getByRole('button', { name: 'Beside somebody else' }).click();
  const panel = page.getByRole('region', { name: 'Beside somebody else' });
  await panel.getByRole('combobox', { name: 'The Player beside' }).fill('Ines Quill');
  await page.getByRole('option', { name: 'Ines Quill 1', exact: true }).click();
  const outcome = panel.getByRole('status', { name: 'Beside' });
  await expect(outcome).toContainText('only Player(2)');
  const row = panel.getByRole('row', { name: /Player\(1\)/ });
  await expect(row).toContainText('✕ not here');
  await expect(row).toContainText('✓ here');
  await row.getByRole('button', { name: 'why' }).click();
  await expect(panel.getByRole('region', { name: 'Why, as Player(2)' })).toContainText('It is hidden.');
  await expect(panel.getByRole('region', { name: 'Why, as Player(2)' })).toContainText('branch = me.branch');
  await expect(panel.getByRole('region', { name: 'Why, as Player(1)' })).toContainText('It is seen');
  await panel.getByRole('button', { name: 'system' }).click();
  await expect(outcome).toContainText('0 only Player(2)');
});

test('the rows of a grid as two actors: those that one alone sees come first, and which line of which wall says so', async ({
  page,
  workbench,
}) => {
  await openDemo(page, workbench);
  await expect(page.getByRole('banner')).toContainText('✓ 4,038 rows');
  await goTo(page, `rows/Loan?as=Player(2)&where=${encodeURIComponent('returned_on is null')}`);
  await expect(page.getByRole('grid')).toBeVisible();
  await page.getByRole('button', { name: 'Beside somebody else' }).click();
  const panel = page.getByRole('region', { name: 'Beside somebody else' });
  await panel.getByRole('button', { name: 'system' }).click();
  const outcome = panel.getByRole('status', { name: 'Beside' });
  await expect(outcome).toContainText('0 only Player(2)');
  const row = panel.getByRole('row', { name: /Loan\(/ }).first();
  await expect(row).toContainText('✕ not here');
  await row.getByRole('button', { name: 'why' }).click();
  await expect(panel.getByRole('region', { name: 'Why, as Player(2)' })).toContainText('It is hidden.');
  await panel.getByRole('button', { name: 'nobody' }).click();
  await expect(outcome).toContainText('0 only nobody');
  await panel.getByRole('button', { name: 'Close' }).click();
  await expect(panel).toBeHidden();
});

test('two players of two branches: what is typed, chosen, sent by hand, deleted or put in stays on their own side', async ({
  page,
  workbench,
}) => {
  await openDemo(page, workbench);
  await expect(page.getByRole('banner')).toContainText('✓ 4,038 rows');
  await goTo(page, 'rows/Loan?as=Player(2)');
  await expect(page.getByRole('grid')).toBeVisible();

  // A drop-down offers who is seen alone.
  await page.getByRole('button', { name: 'Add a row' }).click();
  const borrower = page.getByRole('dialog').getByRole('combobox', { name: 'borrower' });
  await borrower.fill('Omar');
  await expect(page.getByRole('option', { name: /Omar Marsh/ }).first()).toBeVisible();
  await borrower.fill('Ines Quill');
  await expect(page.getByRole('option', { name: /Omar Marsh/ })).toHaveCount(0);
  await expect(page.getByRole('option', { name: 'Ines Quill 1', exact: true })).toHaveCount(0);

  // A key that is sent by hand is one that is not there.
  const loan = "create Loan with borrower Player(1), instrument Instrument(1), lent_on '2031-01-01', due_on '2031-02-01'";
  await goTo(page, `try?as=Player(2)&text=${encodeURIComponent(loan)}`);
  await page.getByRole('button', { name: 'Rehearse Ctrl ↵' }).click();
  await expect(page.getByRole('main')).toContainText('there is no such row of Player');

  // A delete that would reach behind a wall is refused, with how many rows and not which.
  await goTo(page, `try?as=Player(1)&text=${encodeURIComponent('delete Player(1)')}`);
  await page.getByRole('button', { name: 'Rehearse Ctrl ↵' }).click();
  await expect(page.getByRole('main')).toContainText('The delete would reach 1 row that whoever is at work may not change.');

  // Lines of a file are written as they are by hand.
  await goTo(page, 'rows/Loan?as=Player(2)');
  await page.getByRole('button', { name: 'Files' }).click();
  await page.getByRole('button', { name: 'Put rows in from a file' }).click();
  const dialog = page.getByRole('dialog', { name: 'Rows of Loan from a file' });
  const lines = ['borrower,instrument,lent_on,due_on', '2,1,2031-01-01,2031-02-01', '1,1,2031-01-01,2031-02-01'];
  await dialog
    .getByLabel('A CSV file')
    .setInputFiles({ name: 'loans.csv', mimeType: 'text/csv', buffer: Buffer.from(lines.join('\n')) });
  await expect(dialog.getByRole('list', { name: 'Lines that are refused' }).getByRole('listitem')).toHaveText([
    /^line 3, borrower there is no Player\(1\)/,
  ]);
});
