import { join } from 'node:path';
import Database from 'better-sqlite3';
import { bringIn, expect, goTo, openDemo, test } from './workbench.js';

test('rows are walked over their relations, both ways and through pivots, with a trail back', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await page.getByRole('link', { name: /^Rows/ }).click();
  await page
    .getByRole('navigation', { name: 'Entities' })
    .getByRole('button', { name: /^Ensemble/ })
    .click();
  const grid = page.getByRole('grid', { name: 'Rows of Ensemble' });
  const row = grid.getByRole('row', { name: /Tide Quartet/ });
  await row.getByRole('button', { name: / players$/ }).click();
  await expect(page.getByText(/players of Ensemble \d+/)).toBeVisible();
  const players = page.getByRole('grid', { name: 'Rows of Player' });
  await expect(players.getByRole('columnheader', { name: 'seats.chair' })).toBeVisible();
  await players.getByRole('button', { name: 'Open row 1', exact: true }).click();
  await expect(page.getByRole('article')).toContainText('It points at');
  await page.getByRole('region', { name: 'ensembles' }).getByRole('button', { name: 'Tide Quartet', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'Tide Quartet' })).toBeVisible();
  await page.getByRole('navigation', { name: 'Trail' }).getByRole('button').first().click();
  await expect(grid).toBeVisible();
});

test('rows are filtered by a condition of the notation, and what is wrong with it is told', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await goTo(page, 'rows/Loan');
  await expect(page.getByText('1,600 rows')).toBeVisible();
  await page.getByRole('textbox', { name: 'Filter' }).click();
  await page.keyboard.insertText('borrower.branch = Branch(north) and returned_on is null and due_no < today');
  await page.getByRole('button', { name: 'Apply ↵' }).click();
  await expect(page.getByRole('alert')).toContainText('called due_no. Did you mean due_on?');
  await page.getByRole('textbox', { name: 'Filter' }).click();
  await page.keyboard.press('Control+A');
  await page.keyboard.insertText('overdue and borrower.branch = Branch(north)');
  await page.keyboard.press('Escape');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('status').filter({ hasText: /^\d+ rows$/ })).toBeVisible();
  await page.getByRole('button', { name: 'Empty the filter' }).click();
  await expect(page.getByText('1,600 rows')).toBeVisible();
});

test('a head sorts, and columns are put away and remembered', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await goTo(page, 'rows/Player');
  const first = () => page.getByRole('grid').getByRole('row').nth(1);
  await page
    .getByRole('columnheader', { name: /^loans/ })
    .getByRole('button')
    .click();
  await page
    .getByRole('columnheader', { name: /^loans/ })
    .getByRole('button')
    .click();
  await expect(page.getByRole('columnheader', { name: /^loans/ })).toHaveAttribute('aria-sort', 'descending');
  await expect(first().getByRole('button', { name: / loans$/ })).toBeVisible();
  await page.getByRole('button', { name: /Columns/ }).click();
  await page.getByRole('checkbox', { name: 'email' }).uncheck();
  await expect(page.getByRole('columnheader', { name: 'email' })).toBeHidden();
  await page.reload();
  await expect(page.getByRole('columnheader', { name: /^loans/ })).toBeVisible();
  await expect(page.getByRole('columnheader', { name: 'email' })).toBeHidden();
});

test('values look as their types have them: choices by title, nothing as a dash', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await goTo(page, 'rows/Instrument?where=condition%20%3D%20%27mint%27%20and%20bought_on%20is%20null');
  const row = page.getByRole('grid').getByRole('row').nth(1);
  await expect(row).toContainText('As new');
  await expect(row.getByTitle('null').first()).toHaveText('–');
});

test('a grid of very many rows is scrolled to its end', async ({ page, workbench }) => {
  const path = join(workbench.folder, 'large.db');
  const db = new Database(path);
  db.exec(`create table readings (id integer primary key, label text not null, reading integer);
    with recursive n(i) as (select 1 union all select i + 1 from n where i < 300000)
    insert into readings select i, 'reading ' || i, i % 97 from n;`);
  db.close();
  await bringIn(page, workbench, path);
  await goTo(page, 'rows/Reading');
  await expect(page.getByText('300,000 rows')).toBeVisible();
  await page.getByRole('grid').focus();
  await page.keyboard.press('Control+End');
  await expect(page.getByRole('grid').getByText('reading 300000', { exact: true })).toBeVisible();
});

test('a key that points at nothing is found on the card, and its rows are opened', async ({ page, workbench }) => {
  const path = join(workbench.folder, 'loose.db');
  const db = new Database(path);
  db.pragma('foreign_keys = off');
  db.exec(`create table makers (id integer primary key, name text not null);
    create table lutes (id integer primary key, maker_id integer references makers (id), label text not null);
    insert into makers values (1, 'Tarn');
    insert into lutes values (1, 1, 'A lute'), (2, 77, 'An orphan'), (3, null, 'Unsigned');`);
  db.close();
  await bringIn(page, workbench, path);
  await page.getByLabel('Lute, table lutes').waitFor();
  await goTo(page, 'design?select=entity:Lute');
  await page
    .getByRole('article')
    .getByRole('button', { name: /^(one|at most one)$/ })
    .click();
  const card = page.getByRole('article');
  await expect(card.getByRole('button', { name: '1 with an empty key' })).toBeVisible();
  await card.getByRole('button', { name: '1 point at nothing' }).click();
  await expect(page.getByRole('grid').getByRole('row', { name: /An orphan/ })).toContainText('✕ 77');
});
