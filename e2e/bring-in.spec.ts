import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import AxeBuilder from '@axe-core/playwright';
import Database from 'better-sqlite3';
import { expect, goTo, test, textOf, writeAtEnd } from './workbench.js';

function made(path: string, sql: string): void {
  const db = new Database(path);
  db.exec(sql);
  db.close();
}

test('a SQLite file of one’s own is brought in and loaded across two relations', async ({ page, workbench }) => {
  const path = join(workbench.folder, 'workshop.db');
  made(
    path,
    `create table makers (id integer primary key, name text not null);
    create table lutes (id integer primary key, maker_id integer not null references makers (id), label text);
    create table repairs (id integer primary key, lute_id integer not null references lutes (id) on delete cascade, done datetime, check (done glob '[0-9]*'));
    insert into makers values (1, 'Tarn'), (2, 'Oake');
    insert into lutes values (1, 1, 'A lute'), (2, 1, 'Another');
    insert into repairs values (1, 2, '2031-01-01 10:00:00');`,
  );
  await page.goto(workbench.address);
  await page.getByRole('button', { name: 'Bring in a database' }).click();
  await page.getByLabel('SQLite file or SQL script').setInputFiles(path);
  await expect(page.getByRole('heading', { name: 'What came in' })).toBeVisible();
  await expect(page.getByText('Nothing is lost.')).toBeVisible();
  await expect(page.getByText('3 entities, 2 one-to-many relations')).toBeVisible();
  await expect(page.getByText('repairs: one constraint.')).toBeVisible();
  await expect(page.getByRole('link', { name: /Lute +2/ })).toBeVisible();
  await page.getByRole('link', { name: /Load across a relation/ }).click();
  await page.getByRole('button', { name: /Run/ }).click();
  await expect(page.getByRole('status', { name: 'Outcome' })).toContainText('2 statements: 2 rows of Maker, and 2 loaded');

  await page.getByRole('link', { name: /^Design/ }).click();
  await expect(page.getByLabel('Lute, table lutes')).toBeVisible();
  await expect(textOf(page)).toContainText('Lute knows one Maker as maker');
  await page.getByRole('link', { name: 'Try' }).click();
  await page.getByRole('textbox', { name: 'Query' }).click();
  await page.keyboard.press('Control+A');
  await page.keyboard.insertText('from Maker\nload lutes (label)\n  repairs');
  await page.keyboard.press('Control+Enter');
  await expect(page.getByRole('status', { name: 'Outcome' })).toContainText(
    '3 statements: 2 rows of Maker, and 3 loaded with them.',
  );
  await expect(page.getByText('2031-01-01 10:00:00')).toBeVisible();

  await page.getByRole('link', { name: /^Design/ }).click();
  await writeAtEnd(page, '\nentity Polish\n  id integer key\n');
  await page.getByRole('button', { name: 'Polish', exact: true }).or(page.getByLabel('Polish, table polishes')).first().click();
  await expect(page.getByText('Not in this database: table polishes')).toBeVisible();
});

test('what is no database is refused in words', async ({ page, workbench }) => {
  await page.goto(`${workbench.address}bring-in`);
  await page
    .getByLabel('SQLite file or SQL script')
    .setInputFiles({ name: 'notes.db', mimeType: 'application/octet-stream', buffer: Buffer.from('not a database at all') });
  await expect(page.getByRole('alert')).toContainText('notes.db is no SQLite database, or it is encrypted.');
});

test('a script says which of its lines do not run', async ({ page, workbench }) => {
  await page.goto(`${workbench.address}bring-in`);
  const script = 'create table halls (id integer primary key);\ncreate table doors (id int,,);\n';
  await page
    .getByLabel('SQLite file or SQL script')
    .setInputFiles({ name: 'house.sql', mimeType: 'text/plain', buffer: Buffer.from(script) });
  await expect(page.getByText('Of the script’s statements 1 ran, and 1 failed.')).toBeVisible();
  await expect(page.getByText('Line 2: near ",": syntax error')).toBeVisible();
});

test('a database is looked at where it lies, and what changes there comes into the text with one’s own notes kept', async ({
  page,
  workbench,
}) => {
  const files = join(workbench.folder, 'files');
  mkdirSync(files);
  const path = join(files, 'house.db');
  made(
    path,
    `create table halls (site text not null, number integer not null, seats integer, primary key (site, number));
    create table concerts (id integer primary key, site text not null, number integer not null, title text, foreign key (site, number) references halls (site, number));
    insert into halls values ('North Quay', 1, 200), ('North Quay', 2, 80);
    insert into concerts values (1, 'North Quay', 2, 'Bridge night');`,
  );
  await workbench.serveFolder(files);
  await page.goto(`${workbench.address}bring-in`);
  const serious = async () => {
    const { violations } = await new AxeBuilder({ page }).analyze();
    return violations.filter(({ impact }) => impact === 'serious' || impact === 'critical').map(({ id }) => id);
  };
  expect(await serious()).toEqual([]);
  await page.getByRole('button', { name: 'house.db', exact: true }).click();
  await expect(page.getByText('It is looked at where it lies, and never written.')).toBeVisible();
  await expect(page.getByRole('link', { name: /Hall +2/ })).toBeVisible();
  expect(await serious()).toEqual([]);

  // A key of two parts leads to its row, and back.
  await goTo(page, 'rows/Concert');
  await page.getByRole('button', { name: 'North Quay, 2' }).click();
  await expect(page.getByRole('article', { name: /Hall/ }).getByText('80')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Bridge night' })).toBeVisible();

  await page.getByRole('link', { name: /^Design/ }).click();
  await writeAtEnd(page, '\nscope small\n  Hall where seats < 100\n');
  await expect(page.getByText('saved')).toBeVisible();
  made(path, 'alter table halls add column roof text; create table doors (id integer primary key, wide integer)');
  const bytes = readFileSync(path);
  await page.getByRole('link', { name: 'Origin' }).click();
  await page.getByRole('button', { name: 'Look at it again' }).click();
  const changes = page.getByRole('region', { name: 'What changed' });
  await expect(changes).toContainText('roof');
  await expect(changes).toContainText('entity Door');
  await page.getByRole('button', { name: 'Take in 2 changes' }).click();
  await expect(page.getByText('The text follows the database again')).toBeVisible();
  await page.getByRole('link', { name: /^Design/ }).click();
  await expect(textOf(page)).toContainText('entity Door');
  await expect(page.getByLabel('Door, table doors')).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Revisions' }).click();
  await expect(page.getByText('scope small')).toBeVisible();
  expect(readFileSync(path)).toEqual(bytes);
  writeFileSync(join(files, 'gone.db'), 'nothing');
  await page.goto(`${workbench.address}bring-in`);
  await page.getByRole('button', { name: 'gone.db', exact: true }).click();
  await expect(page.getByRole('alert')).toContainText('gone.db is no SQLite database');
});
