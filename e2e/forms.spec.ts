import { expect, goTo, openDemo, test, writeAtEnd } from './workbench.js';

test('rows of a base say what kind they are, and a row on one of several things leads to it', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await goTo(page, 'rows/Instrument');
  const grid = page.getByRole('grid');
  await expect(grid.getByRole('columnheader', { name: 'kind' })).toBeVisible();
  await expect(grid).toContainText('StringInstrument');
  await goTo(page, 'rows/Remark?where=subject%20is%20a%20Hall');
  await page.getByRole('button', { name: 'Corn Exchange' }).first().click();
  await expect(page.getByRole('main')).toContainText('Hall 1');
  await expect(page.getByRole('region', { name: 'remarks' })).toBeVisible();
  await goTo(page, 'rows/Instrument/7');
  await expect(page.getByRole('main')).toContainText('string_count');
  await expect(page.getByRole('main')).not.toContainText('pitch');
});

test('a row that knows many of several is counted for each, and leads to the rows of one', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await goTo(page, 'rows/Tag?where=word%20%3D%20%27concert%27');
  const grid = page.getByRole('grid', { name: 'Rows of Tag' });
  await expect(grid.getByRole('columnheader', { name: 'things as Piece' })).toBeVisible();
  await grid.getByRole('button', { name: '22 things as Instrument' }).click();
  await expect(page.getByRole('main')).toContainText('22 rows');
  await expect(page.getByRole('grid', { name: 'Rows of Instrument' })).toContainText('StringInstrument');
});

test('the ways to store kinds are compared on the rows, and another is chosen', async ({ page, workbench }) => {
  test.setTimeout(120_000);
  await openDemo(page, workbench);
  await page.keyboard.press('Control+k');
  await page.getByRole('combobox').fill('inheritance');
  await page.getByRole('option', { name: /Compare the ways to store the kinds of Instrument/ }).click();
  const ways = page.getByRole('region', { name: 'Ways to store its kinds' });
  await expect(ways).toContainText('as it is now', { timeout: 90_000 });
  await expect(ways.getByRole('row', { name: /^tables/ })).toContainText('3');
  await expect(ways).toContainText('Instrument’s key becomes a uuid');
  await ways.getByRole('button', { name: 'all Instrument rows' }).click();
  await expect(ways).toContainText('union all');
  await ways.getByRole('button', { name: 'Choose joined tables' }).click();
  await expect(page.getByRole('main')).toContainText('kinds in joined tables by kind');
  await expect(page.getByRole('banner')).toContainText('✓ 4,368 rows', { timeout: 30_000 });
});

test('findings say why they matter, and a fix is seen before it is made', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await goTo(page, 'findings');
  await expect(page.getByRole('region', { name: 'Worth knowing' })).toContainText('its triggers rest on each connection');
  await goTo(page, 'design');
  await writeAtEnd(page, '\nentity Login\n  id        integer key\n  password  text(80)\n');
  await page.getByRole('link', { name: /Findings/ }).click();
  const doubtful = page.getByRole('region', { name: 'Doubtful' });
  await expect(doubtful).toContainText('Login.password looks like a secret');
  await expect(doubtful).toContainText('Whole rows are what lists, logs and exports hand out.');
  await doubtful.getByRole('button', { name: 'Hide it…' }).click();
  await expect(page.getByRole('region', { name: 'Preview: Hide it' })).toContainText('text(80) hidden');
  await page.getByRole('button', { name: 'Change the text' }).click();
  await expect(page.getByRole('region', { name: 'Doubtful' })).toHaveCount(0);
});

test('what the rows do not hold to is counted, leads to them, and is looked for again when the text changes', async ({
  page,
  workbench,
}) => {
  await openDemo(page, workbench);
  await page.getByRole('link', { name: '1 rule broken in the rows' }).click();
  const rows = page.getByRole('region', { name: 'In the rows' });
  await expect(rows).toContainText('Loan: 3 rows break the rule bought_by_then, “Nothing is lent before it is bought”.');
  await rows.getByText('How they were counted').click();
  await expect(rows.getByRole('figure', { name: 'counting statement' })).toContainText('select count(*)');
  await rows.getByRole('link', { name: 'see all 3 in Rows' }).click();
  await expect(page.getByRole('main')).toContainText('3 rows');
  await page.goBack();
  await rows
    .getByRole('link', { name: /^Loan \d+$/ })
    .first()
    .click();
  await expect(page.getByRole('main')).toContainText('lent_on');
  await goTo(page, 'design');
  await writeAtEnd(page, LICENCES);
  await page.getByRole('link', { name: '2 rules broken in the rows' }).click();
  await expect(rows).toContainText('Player.licence: 176 rows know no Licence, and each has to know one.');
  await expect(rows.getByRole('listitem')).toHaveCount(2);
});

const LICENCES = `
entity Licence
  id  integer key

relation licensing
  Licence knows one Player as player
  Player knows one Licence as licence
  stored in Licence.player_id

sample Licence 4
`;

test('one is related to several: each says how it knows back, and each way to store it shows its new lines alone', async ({
  page,
  workbench,
}) => {
  await openDemo(page, workbench);
  await goTo(page, 'design?select=entity:Repair&panel=relate');
  const sheet = page.getByRole('dialog', { name: 'Relate entities' });
  await sheet.getByRole('button', { name: 'or another…' }).click();
  await expect(sheet).toContainText('each knows many Repair as repairs');
  await sheet.getByRole('button', { name: 'say it for each by itself' }).click();
  await sheet.getByRole('button', { name: /^Way back of Player: knows/ }).click();
  await page.getByRole('option', { name: 'nothing of' }).click();
  await expect(sheet.getByLabel('Way back of Player: role')).toBeHidden();
  await expect(sheet).toContainText('Branch knows many Repair as repairs');
  await expect(sheet).not.toContainText('Player knows many');
  const table = sheet.getByRole('figure', { name: 'table repairs' });
  await expect(table).toContainText('subject_type VARCHAR(63) not null');
  await expect(table).not.toContainText('begun_on DATE');
  await sheet.getByRole('radio', { name: /^a key column for each/ }).check();
  await expect(sheet).toContainText('stored in one of Repair.branch_id, Repair.player_id');
  await expect(table).toContainText('branch_id INTEGER');
  await table
    .getByRole('button', { name: /lines as before/ })
    .first()
    .click();
  await expect(table).toContainText('begun_on DATE');
  await sheet.getByRole('button', { name: 'Add to the text' }).click();
  await expect(page.getByRole('article', { name: 'Card of repair_subject' })).toContainText(
    'A Repair knows one Branch or Player as subject',
  );
  await expect(page.getByRole('article')).toContainText('left join players on players.id = repairs.player_id');
});
