import { expect, expectNothingWrong, goTo, openDemo, test, textOf, writeAtEnd } from './workbench.js';

test('words are completed as they are written, from what fits there', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await writeAtEnd(page, '\nscope lately\n  Loan where borrower.bra');
  const list = page.getByRole('listbox');
  await page.keyboard.press('Control+Space');
  await expect(list.getByRole('option', { name: /branch/ })).toBeVisible();
  // The list does not take a key that was on its way when it opened.
  await page.waitForTimeout(150);
  await page.keyboard.press('Tab');
  await expect(textOf(page)).toContainText('borrower.branch');
});

test('a name is found wherever it is used, and renamed without moving data', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await textOf(page).click();
  await page.keyboard.press('Control+F');
  await page.getByRole('textbox', { name: 'Find', exact: true }).pressSequentially('as borrower');
  await page.keyboard.press('Enter');
  await page.keyboard.press('Escape');
  await page.keyboard.press('F2');
  const panel = page.getByRole('region', { name: 'Name borrower' });
  await expect(panel.getByRole('list', { name: 'Uses' }).getByRole('listitem').first()).toBeVisible();
  await panel.getByRole('textbox', { name: 'New name' }).fill('lent_on');
  await expect(panel.getByRole('alert')).toContainText('lent_on');
  await panel.getByRole('textbox', { name: 'New name' }).fill('player');
  await expect(panel).toContainText('Loan.borrower_id is written out');
  await page.keyboard.press('Enter');
  await expect(panel).toBeHidden();
  await expectNothingWrong(page);
  await page.goto(`${page.url().split('?')[0]}?select=relation:borrowing`);
  await expect(page.getByRole('article')).toContainText('loans.borrower_id → players.id');
  await expect(page.getByRole('article')).toContainText('A Loan knows one Player as player.');
});

test('a card says what the rows say of its relation, and opens them', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await goTo(page, 'design?select=relation:mentoring');
  const card = page.getByRole('article', { name: 'Card of mentoring' });
  await expect(card).toContainText('What the rows say');
  await expect(card).toContainText('0 point at nothing');
  await card.getByRole('button', { name: /players with none/ }).click();
  await expect(page).toHaveURL(/rows\/Player\?where=none%28pupils%29/);
  await expect(page.getByRole('grid', { name: 'Rows of Player' })).toBeVisible();
});

test('a join on a card can be tried', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await goTo(page, 'design?select=relation:seating');
  await page.getByRole('article').getByRole('button', { name: 'try it' }).first().click();
  await page.getByRole('button', { name: /Run/ }).click();
  await expect(page.getByRole('status', { name: 'Outcome' })).toContainText('2 statements: 50 rows of Player');
});

test('a field, its type, a default and a delete rule are changed by clicking, in the text', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await goTo(page, 'design?select=entity:Loan');
  const card = page.getByRole('article', { name: 'Card of Loan' });
  await card.getByRole('button', { name: 'Add a field' }).click();
  const form = card.getByRole('form', { name: 'New field' });
  await form.getByLabel('Name').fill('fee');
  await form.getByLabel('Type').fill('decimal(6, 2)');
  await form.getByRole('button', { name: 'Add' }).click();
  await expect(textOf(page)).toContainText('fee          decimal(6, 2) optional');
  await card.getByRole('button', { name: 'fee', exact: true }).click();
  const change = card.getByRole('form', { name: 'Field fee' });
  await change.getByLabel('Type').fill('nonsense');
  await change.getByRole('button', { name: 'Change' }).click();
  await expect(change.getByRole('alert')).toContainText('nonsense');
  await change.getByLabel('Type').fill('decimal(8, 2)');
  await change.getByLabel('optional').uncheck();
  await change.getByLabel('default').fill('0');
  await change.getByRole('button', { name: 'Change' }).click();
  await expect(textOf(page)).toContainText('fee          decimal(8, 2) default 0');

  await goTo(page, 'design?select=relation:lending');
  await page.getByRole('button', { name: /^On delete/ }).click();
  await page.getByRole('option', { name: 'cascade' }).click();
  await expect(page.getByRole('article')).toContainText('its loans go with it');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('article')).toContainText('refused while it has loans');
});

test('two entities are related by choosing, with tables, text and rows seen meanwhile', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await page.getByRole('button', { name: 'Relate' }).click();
  const sheet = page.getByRole('dialog', { name: 'Relate entities' });
  await sheet.getByRole('button', { name: /^Subject/ }).click();
  await page.getByRole('option', { name: 'Repair', exact: true }).click();
  await sheet.getByRole('button', { name: /^Target/ }).click();
  await page.getByRole('option', { name: 'Player', exact: true }).click();
  await expect(sheet).toContainText('Each of the 210 rows of Repair must point at one of the 180 rows of Player');
  await expect(sheet).toContainText('Repair knows one Player as player');
  await sheet.getByRole('button', { name: /First sentence: knows/ }).click();
  await page.getByRole('option', { name: 'many', exact: true }).click();
  await expect(sheet).toContainText('The new table begins empty');
  await expect(sheet).toContainText('A new table');
  await sheet.getByLabel('It is called').fill('menders');
  await sheet.getByLabel('First sentence: role').fill('what');
  await expect(sheet.getByRole('alert')).toContainText('Repair.what is a field already');
  await sheet.getByLabel('First sentence: role').fill('menders');
  await sheet.getByRole('button', { name: 'Add to the text' }).click();
  await expect(page.getByRole('article', { name: 'Card of menders' })).toContainText('many-to-many');
  await expectNothingWrong(page);
});

test('an entity is added by its name', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await page.getByRole('button', { name: 'Add entity' }).click();
  await page.getByRole('dialog').getByRole('textbox').fill('Loan');
  await page.getByRole('button', { name: 'Add', exact: true }).click();
  await expect(page.getByRole('dialog').getByRole('alert')).toContainText('There is an entity, mixin or choice Loan already');
  await page.getByRole('dialog').getByRole('textbox').fill('Shelf');
  await page.getByRole('button', { name: 'Add', exact: true }).click();
  await expect(page.getByRole('article', { name: 'Card of Shelf' })).toBeVisible();
  await expect(page.getByLabel('Shelf, table shelves')).toBeVisible();
});

test('the map is listed in words, searched by fields too, and folded', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await page.getByRole('button', { name: 'List of entities' }).click();
  const list = page.getByRole('navigation', { name: 'Entities' });
  await list.getByRole('button', { name: 'Concert', exact: true }).click();
  await expect(page.getByRole('article', { name: 'Card of Concert' })).toBeVisible();
  await list.getByRole('button', { name: /one Ensemble as ensemble/ }).click();
  await expect(page.getByRole('article', { name: 'Card of programme' })).toBeVisible();
  await page.getByRole('searchbox', { name: 'Find an entity on the map' }).fill('composer');
  await expect(page.getByText('1 found')).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('article', { name: 'Card of Piece' })).toBeVisible();
  await goTo(page, 'design?fold=Player');
  await expect(page.getByLabel('Player, table players')).toBeVisible();
  await expect(page.getByLabel('Loan, table loans')).toBeHidden();
  await expect(page.getByLabel('Concert, table concerts')).toBeVisible();
});
