import { expect, goTo, openDemo, test } from './workbench.js';

test('cells are changed in place, several in one write, and what was written is taken back', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await goTo(page, 'rows/Loan');
  await expect(page.getByText('1,600 rows')).toBeVisible();
  const grid = page.getByRole('grid', { name: 'Rows of Loan' });
  await grid.focus();
  // The first three break a rule already.
  for (const key of ['ArrowDown', 'ArrowDown', 'ArrowDown', 'ArrowRight', 'ArrowRight', 'ArrowRight'])
    await page.keyboard.press(key);
  await page.keyboard.type('2031-05-01');
  await page.keyboard.press('Enter');
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('Delete');
  const unwritten = page.getByRole('region', { name: 'Unwritten changes' });
  await expect(unwritten).toContainText('2 cells of 2 rows changed, and not written');
  await page.keyboard.press('Control+z');
  await expect(unwritten).toContainText('1 cell of 1 row changed');
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('Enter');
  await page.getByRole('combobox', { name: 'borrower' }).pressSequentially('Ansel H');
  await page.keyboard.press('Enter');
  await expect(unwritten).toContainText('2 cells of 2 rows changed');
  // What was typed and is not written outlives the page.
  await page.reload();
  await expect(unwritten).toContainText('2 cells of 2 rows changed');
  await unwritten.getByRole('button', { name: /^Write/ }).click();
  await expect(unwritten).toBeHidden();
  await goTo(page, `rows/Loan?where=${encodeURIComponent("due_on = '2031-05-01' and lent_on < '2030-01-01'")}`);
  await expect(page.getByRole('status').filter({ hasText: /^1 row$/ })).toBeVisible();
  await page.getByRole('button', { name: '1 write' }).click();
  await page.getByRole('button', { name: 'Take back' }).click();
  await expect(page.getByText('No row fits this condition.')).toBeVisible();
});

test('a value that does not fit is told as it is typed, and one that a constraint refuses in the words of the design', async ({
  page,
  workbench,
}) => {
  await openDemo(page, workbench);
  await goTo(page, 'rows/Loan');
  await expect(page.getByText('1,600 rows')).toBeVisible();
  await page.getByRole('grid').focus();
  for (const key of ['ArrowRight', 'ArrowRight', 'ArrowRight']) await page.keyboard.press(key);
  await page.keyboard.type('2031-02-30');
  await expect(page.getByRole('grid')).toContainText("write it as '2031-04-12'");
  await page.keyboard.press('Control+a');
  await page.keyboard.type('1990-02-28');
  await page.keyboard.press('Enter');
  await page.keyboard.press('Control+Enter');
  await expect(page.getByRole('alert')).toContainText('A loan ends after it begins');
  await expect(page.getByRole('region', { name: 'Unwritten changes' })).toContainText('1 cell of 1 row changed');
});

test('a cell that somebody else has changed meanwhile shows both, and either is taken', async ({ page, workbench, context }) => {
  await openDemo(page, workbench);
  await goTo(page, 'rows/Ensemble');
  const grid = page.getByRole('grid');
  await expect(page.getByRole('status').filter({ hasText: /^9 rows$/ })).toBeVisible();
  await grid.focus();
  for (const key of ['ArrowRight', 'ArrowRight']) await page.keyboard.press(key);
  await page.keyboard.type('Mine');
  await page.keyboard.press('Enter');
  const key = (await grid.getByRole('row').nth(1).getByRole('gridcell').nth(1).textContent()) ?? '';
  const other = await context.newPage();
  await other.goto(page.url().replace(/rows.*/, `try?text=${encodeURIComponent(`update Ensemble(${key}) with title 'Theirs'`)}`));
  await other.getByRole('button', { name: 'Carry out' }).click();
  await expect(other.getByRole('status', { name: 'Outcome' })).toContainText('Written.');
  const unwritten = page.getByRole('region', { name: 'Unwritten changes' });
  await expect(unwritten).toContainText(`title of ${key} was changed by somebody else meanwhile: it is “Theirs” now.`);
  await unwritten.getByRole('button', { name: 'Take theirs' }).click();
  await expect(unwritten).toBeHidden();
  await expect(grid).toContainText('Theirs');
});

test('a block is pasted from a spreadsheet, and what does not fit is told', async ({ page, workbench, context }) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  await openDemo(page, workbench);
  await goTo(page, 'rows/Loan');
  await expect(page.getByText('1,600 rows')).toBeVisible();
  const grid = page.getByRole('grid');
  await page.evaluate(() => navigator.clipboard.writeText('2031-06-01\t2031-06-02\n2031-06-03\tnever\n'));
  await grid.focus();
  for (const key of ['ArrowRight', 'ArrowRight', 'ArrowRight']) await page.keyboard.press(key);
  await page.keyboard.press('Control+v');
  const unwritten = page.getByRole('region', { name: 'Unwritten changes' });
  await expect(unwritten).toContainText('3 cells of 2 rows changed');
  await expect(unwritten).toContainText('1 of the pasted cells could not be taken');
  await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('Shift+ArrowDown');
  await page.keyboard.press('Control+c');
  expect(await page.evaluate(() => navigator.clipboard.readText())).toMatch(/^2031-06-01\t2031-06-02\r?\n2031-06-03\t\d{4}/);
});

test('a row is added through its parent, which fills the role that leads back', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await goTo(page, 'rows/Player/3');
  await page.getByRole('region', { name: 'loans' }).getByRole('button', { name: 'Add…' }).click();
  const form = page.getByRole('dialog', { name: 'Add to Loan' });
  await expect(form).toContainText('borrower is filled by it');
  await form.getByRole('textbox', { name: 'due_on' }).fill('2031-05-20');
  await form.getByRole('combobox', { name: 'instrument' }).fill('Harp LA');
  await page.getByRole('option').first().click();
  await form.getByRole('button', { name: 'Add' }).click();
  await expect(page.getByRole('heading', { name: /^Loan 16/ })).toBeVisible();
  await expect(page.getByRole('article')).toContainText('Nils Heath');
});

test('two partners are linked once, whichever way round, and nobody is a partner of themselves', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await goTo(page, 'rows/Player/3');
  const partners = page.getByRole('region', { name: 'duet_partners' });
  const link = async (title: string) => {
    await partners.getByRole('button', { name: 'Link…' }).click();
    const dialog = page.getByRole('dialog', { name: /duet_partners/ });
    await dialog.getByRole('combobox').fill(title);
    await page.getByRole('option', { name: title }).first().click();
    await dialog.getByRole('button', { name: 'Link', exact: true }).click();
    return dialog;
  };
  await expect(partners.getByText('3', { exact: true })).toBeVisible();
  await expect(await link('Hale Oake')).toBeHidden();
  await expect(partners.getByText('4', { exact: true })).toBeVisible();
  await partners.getByRole('button', { name: 'Hale Oake', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'Hale Oake' })).toBeVisible();
  const again = await link('Nils Heath');
  await expect(again.getByRole('status')).toContainText('Already linked');
  await again.getByRole('button', { name: 'Close' }).last().click();
  const itself = await link('Hale Oake');
  await expect(itself.getByRole('alert')).toContainText('a row is no partner of itself');
});

test('a delete says first what goes along, is refused where it has to be, and is held against what went', async ({
  page,
  workbench,
}) => {
  await openDemo(page, workbench);
  await goTo(page, 'rows/Branch/1');
  await page.getByRole('button', { name: 'Delete…' }).click();
  const refused = page.getByRole('dialog', { name: 'Delete North Quay' });
  await expect(refused).toContainText(/refuses \d+ of Player over branch, by players_branch_id_fkey/);
  await expect(refused.getByRole('button', { name: 'Refused' })).toBeDisabled();
  await goTo(page, 'rows/Player/3');
  await page.getByRole('button', { name: 'Delete…' }).click();
  const dialog = page.getByRole('dialog', { name: 'Delete Nils Heath' });
  await expect(dialog).toContainText('goes along 11 of Loan over borrower');
  await dialog.getByRole('button', { name: 'Delete' }).click();
  await expect(dialog.getByRole('status')).toContainText('21 rows went along, as was told.');
  await dialog.getByRole('button', { name: 'Close' }).last().click();
  await expect(page.getByText('There is no Player with the key 3')).toBeVisible();
});

test('what was shown as written is there after the server was killed, and after the text has changed', async ({
  page,
  workbench,
}) => {
  await openDemo(page, workbench);
  await goTo(page, 'try');
  await goTo(page, `try?text=${encodeURIComponent("create Branch with name 'Night Quay', town 'Ferren'")}`);
  await page.getByRole('button', { name: 'Carry out' }).click();
  await expect(page.getByRole('status', { name: 'Outcome' })).toContainText(/1 row created; \d statements\. Written\./);
  await workbench.kill();
  await workbench.start();
  await goTo(page, 'rows/Branch');
  await expect(page.getByRole('status').filter({ hasText: '6 rows' })).toBeVisible();
  await expect(page.getByRole('grid')).toContainText('Night Quay');
});

test('what is seen is expected from now on with a click, and told where it no longer holds', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await goTo(page, 'try?query=overdue_by_branch&p.branch=1&run=1');
  const expected = page.getByRole('region', { name: 'Expected' });
  await expect(expected).toContainText('statements at most 5');
  await goTo(page, 'try?query=newest_in&p.branch=1&run=1');
  await expect(page.getByRole('status', { name: 'Outcome' })).toContainText('rows of Player');
  await expected.getByRole('button', { name: /^Expect what is seen: \d+ rows/ }).click();
  await expect(expected).toContainText('newest_in(Branch(1))');
  await goTo(page, 'findings');
  const held = page.getByRole('region', { name: 'As expected' });
  await expect(held).toContainText('8 expectations hold');
  await goTo(page, `try?text=${encodeURIComponent('update Player[branch = Branch(1)] with branch Branch(2)')}`);
  await page.getByRole('button', { name: 'Carry out' }).click();
  await expect(page.getByRole('status', { name: 'Outcome' })).toContainText('Written.');
  await goTo(page, 'findings');
  await expect(held).toContainText('does not hold.');
  await expect(held).toContainText(/rows \d+\s*There are 0 rows\./);
});

test('a row is kept as a sample with a click, and how many are made is said', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await goTo(page, 'rows/Ensemble/3');
  const title = (await page.getByRole('article').getByRole('heading').first().textContent()) ?? '';
  await page.getByRole('button', { name: 'Keep as a sample…' }).click();
  await page.getByRole('textbox', { name: 'Its name' }).fill('favourite');
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(page.getByRole('dialog')).toBeHidden();
  await expect(page.getByText('✓ saved')).toBeVisible();
  await goTo(
    page,
    `try?text=${encodeURIComponent('from Concert\nwhere ensemble = Ensemble(favourite) or true\nload ensemble\nlimit 3')}&run=1`,
  );
  await expect(page.getByRole('status', { name: 'Outcome' })).toContainText('3 rows of Concert');
  await goTo(page, 'rows/Hall');
  await page.getByRole('button', { name: 'Samples' }).click();
  await page.getByRole('textbox', { name: 'Rows beside the named' }).fill('30');
  await page.getByRole('button', { name: 'Make them' }).click();
  await expect(page.getByRole('status').filter({ hasText: /^3\d rows$/ })).toBeVisible();
  await goTo(page, `rows/Ensemble?where=${encodeURIComponent(`title = '${title}'`)}`);
  await expect(page.getByRole('grid')).toContainText(title);
});

test('the lines of a file become rows: two that are wrong are told by line and column, and the good ones go in', async ({
  page,
  workbench,
}) => {
  await openDemo(page, workbench);
  await goTo(page, 'rows/Player');
  await expect(page.getByText('180 rows')).toBeVisible();
  await page.getByRole('button', { name: 'Files' }).click();
  await page.getByRole('button', { name: 'Put rows in from a file' }).click();
  const dialog = page.getByRole('dialog', { name: 'Rows of Player from a file' });
  const lines = [
    'Name,E-mail address,branch,steward',
    'Ada Quill,ada@cinder.example,Hill Chapel,yes',
    'Bram Oake,bram@cinder.example,Nowhere,no',
    '"Cleo ""Marsh""",cleo@cinder.example,Kiln Row,perhaps',
    'Dov Tarn,dov@cinder.example,Kiln Row,',
  ];
  await dialog
    .getByLabel('A CSV file')
    .setInputFiles({ name: 'players.csv', mimeType: 'text/csv', buffer: Buffer.from(lines.join('\r\n')) });
  // What no name tells is said by the person.
  await expect(dialog.getByRole('alert')).toContainText('Player.email is required, and no column of the file is it.');
  await expect(dialog.getByLabel('branch is')).toHaveValue('branch as shown');
  await dialog.getByLabel('E-mail address is').selectOption('email');
  const refused = dialog.getByRole('list', { name: 'Lines that are refused' });
  await expect(refused.getByRole('listitem')).toHaveText([
    /^line 3, branch there is no Branch “Nowhere”/,
    /^line 4, steward “perhaps” is no boolean/,
  ]);
  await expect(dialog.getByRole('button', { name: 'Put the lines in' })).toBeDisabled();
  await dialog.getByLabel('The good lines go in though others are refused').check();
  await dialog.getByRole('button', { name: 'Put the lines in' }).click();
  await expect(dialog.getByRole('status')).toContainText('4 lines as rows of Player: 2 new, 2 refused.');
  const download = page.waitForEvent('download');
  await dialog.getByRole('link', { name: 'The lines that were refused' }).click();
  const left = await (await download).createReadStream();
  expect(Buffer.concat(await left.toArray()).toString()).toContain(
    '"Cleo ""Marsh""",cleo@cinder.example,Kiln Row,perhaps,steward: “perhaps” is no boolean',
  );
  await dialog.getByRole('button', { name: 'Close' }).last().click();
  await expect(page.getByText('182 rows')).toBeVisible();
  await page.getByRole('button', { name: '1 write' }).click();
  await expect(page.getByText('4 lines of players.csv as rows of Player')).toBeVisible();
  await page.getByRole('button', { name: 'Take back' }).click();
  await expect(page.getByText('180 rows')).toBeVisible();
});

test('rows that fit the filter are saved as a file, other rows by what they are shown as', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await goTo(page, `rows/Player?where=${encodeURIComponent("name = 'Ansel Ember'")}`);
  await expect(page.getByRole('status').filter({ hasText: /^2 rows$/ })).toBeVisible();
  await page.getByRole('button', { name: 'Files' }).click();
  await page.getByRole('button', { name: 'Save these rows as a file' }).click();
  const dialog = page.getByRole('dialog', { name: 'Rows of Player as a file' });
  for (const column of ['portrait', 'created_at', 'changed_at', 'mentor', 'branch', 'steward'])
    await dialog.getByRole('checkbox', { name: column, exact: true }).uncheck();
  await dialog.getByRole('checkbox', { name: 'branch as shown' }).check();
  const download = page.waitForEvent('download');
  await dialog.getByRole('button', { name: 'Save the file' }).click();
  const saved = await (await download).createReadStream();
  const text = Buffer.concat(await saved.toArray()).toString();
  expect(text).toMatch(/^id,name,email,branch as shown\r\n43,Ansel Ember,[^,]+@example\.org,[A-Z][^,\r]+\r\n172,Ansel Ember,/);
  await expect(dialog.getByRole('status')).toHaveText('2 rows saved.');
});

test('rows that have an order of their own are moved in it, and what the pair holds beside goes along', async ({
  page,
  workbench,
}) => {
  await openDemo(page, workbench);
  await goTo(page, `rows/Piece?via=${encodeURIComponent('Concert(1).pieces')}`);
  await expect(page.getByText('Alt ↑ and Alt ↓ move a row')).toBeVisible();
  const titles = async () =>
    (await page.getByRole('grid').getByRole('row').allInnerTexts()).slice(1).map((row) => row.split('\n')[1]);
  await expect.poll(async () => (await titles()).length).toBeGreaterThan(2);
  const before = await titles();
  await page.getByRole('grid').focus();
  await page.keyboard.press('Alt+ArrowDown');
  await expect.poll(titles).toEqual([before[1], before[0], ...before.slice(2)]);
  // The row that was moved is still the one that the keys are at.
  await page.keyboard.press('Alt+ArrowUp');
  await expect.poll(titles).toEqual(before);
});

test('what a delete would reach is seen on the map, by its own address, and nothing is touched', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await goTo(page, 'rows/Ensemble/1');
  await page.getByRole('button', { name: 'Delete…' }).click();
  await page.getByRole('link', { name: 'See it on the map' }).click();
  await expect(page.getByRole('region', { name: 'What a delete reaches' })).toContainText('Nothing has been touched.');
  await expect(page.getByRole('list', { name: 'Reached of Ensemble' })).toHaveText('1 deleted');
  await expect(page.getByRole('list', { name: 'Reached of Concert' })).toContainText('go along');
  await expect(page.getByRole('list', { name: 'Reached of Player' })).toHaveCount(0);
  await page.reload();
  await expect(page.getByRole('list', { name: 'Reached of Ensemble' })).toHaveText('1 deleted');
  await page.getByRole('button', { name: 'Back to the whole map' }).click();
  await expect(page.getByRole('list', { name: 'Reached of Ensemble' })).toHaveCount(0);
});
