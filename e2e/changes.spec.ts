import { copyFileSync, existsSync, mkdtempSync, readdirSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import Database from 'better-sqlite3';
import { expect, goTo, openDemo, replaceText, test } from './workbench.js';

/** Gives the demo a SQLite file with its sample rows. */
async function makeFile(page: Page): Promise<void> {
  await goTo(page, 'changes');
  await page.getByRole('textbox', { name: 'Called' }).fill('local');
  await page.getByRole('button', { name: 'Make the file' }).click();
  await expect(page.getByRole('status', { name: 'What would happen' })).toContainText('Nothing to do');
}

test('what a change asks is answered in place, rehearsed, applied, and taken back', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await makeFile(page);
  await goTo(page, 'design');
  await replaceText(page, (text) =>
    text
      .replace("founded  integer optional, note 'the year, where it is known'", 'founded  integer optional\n  motto  text(40)')
      .replace('  portrait  text(200) optional\n', '')
      .replace(/.*portrait_url.*\n/, '')
      .replace(/.*portrait 'ferry.*\n/, ''),
  );
  await page.getByRole('link', { name: /^Changes/ }).click();
  const happens = page.getByRole('status', { name: 'What would happen' });
  await expect(happens).toContainText('needs an answer');
  await expect(page.getByRole('button', { name: 'Rehearse' })).toBeDisabled();
  const question = page.getByRole('region', { name: /^Question: makers.motto is required/ });
  // What has to be said is selected, so that it is typed over.
  await question.getByRole('textbox', { name: 'an expression gives the value' }).click();
  await page.keyboard.type("'by hand'");
  await question.getByRole('button', { name: 'Answer' }).first().click();
  await expect(happens).toContainText('1 loses data');
  await expect(page.getByRole('textbox', { name: 'Answers, a line each' })).toHaveValue(/by hand/);

  await page.getByRole('button', { name: 'Rehearse', exact: true }).click();
  await expect(page.getByRole('status', { name: 'Rehearsal' })).toContainText('it reads back as it should');
  await expect(page.getByRole('region', { name: 'Tables before and after' })).toContainText('by hand');
  await page.getByRole('tab', { name: 'Script' }).click();
  await expect(page.getByRole('region', { name: 'Script back' })).toContainText('begin immediate');

  await page.getByRole('textbox', { name: 'Name' }).fill('mottos');
  await expect(page.getByRole('button', { name: 'Apply' })).toBeDisabled();
  await page.getByRole('checkbox', { name: /lose a value/ }).check();
  await page.getByRole('button', { name: 'Apply' }).click();
  await expect(page.getByRole('status', { name: 'Applied' })).toContainText('Done as number 2, “mottos”');
  await expect(happens).toContainText('Nothing to do');

  await page.getByRole('region', { name: 'History' }).getByRole('button', { name: 'Take back…' }).click();
  await expect(happens).toContainText('take it back');
  // The mottos that were written since go with their column, and that is agreed to as well.
  await page.getByRole('checkbox', { name: /^7 rows lose a value/ }).check();
  await page.getByRole('button', { name: 'Take it back' }).click();
  await expect(page.getByRole('region', { name: 'History' })).toContainText('taken back');
  const [file] = readdirSync(workbench.folder, { recursive: true, encoding: 'utf8' }).filter((name) =>
    /(?:^|\/)[0-9a-f-]{36}\.db$/.test(name),
  );
  const db = new Database(join(workbench.folder, file ?? ''), { readonly: true });
  const kept = db.prepare('select count(portrait) as portraits from players').get();
  db.close();
  expect((kept as { portraits: number }).portraits).toBeGreaterThan(20);
});

test('what things were called is taken out of the text once its database has followed it', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await makeFile(page);
  await goTo(page, 'design');
  await replaceText(page, (text) => text.replace('pitch  text(4)', 'tone   text(4) was pitch').replaceAll('  pitch ', '  tone '));
  await page.getByRole('link', { name: /^Changes/ }).click();
  const happens = page.getByRole('status', { name: 'What would happen' });
  await expect(happens).toContainText('1 change: 1 safe');
  await expect(page.getByText('was called pitch')).toBeVisible();
  await page.getByRole('textbox', { name: 'Name' }).fill('tones');
  await page.getByRole('button', { name: 'Apply' }).click();
  await expect(happens).toContainText('Nothing to do');
  await page.getByRole('button', { name: 'Take it out of the text' }).click();
  await expect(page.getByText('The text still says')).toBeHidden();
  await expect(happens).toContainText('Nothing to do');
});

/** The file of the data folder that is a database of the design. */
function ownFile(folder: string): string {
  const [file = ''] = readdirSync(folder, { recursive: true, encoding: 'utf8' }).filter((name) =>
    /(?:^|\/)[0-9a-f-]{36}\.db$/.test(name),
  );
  return join(folder, file);
}

test('of doubles before a unique each is picked by itself, and what pointed at the others points at it', async ({
  page,
  workbench,
}) => {
  await openDemo(page, workbench);
  await makeFile(page);
  await goTo(page, 'design');
  await replaceText(page, (text) => text.replace('  town     text(60) optional', '  town     text(60) optional unique'));
  await page.getByRole('link', { name: /^Changes/ }).click();
  const question = page.getByRole('region', { name: /^Question: 7 rows of makers are not alone with their town/ });
  await question.getByRole('button', { name: /^Keep 1, Alder & Vane, Ferren/ }).click();
  await expect(page.getByRole('region', { name: /^Question: 4 rows of makers/ })).toBeVisible();
  await page.getByRole('button', { name: /^Keep 5, Holm of Orsby/ }).click();
  await expect(page.getByRole('region', { name: /^Question: 2 rows of makers/ })).toBeVisible();
  await page.getByRole('button', { name: /^Keep 6, Sorrel and Daughter/ }).click();
  await expect(page.getByRole('status', { name: 'What would happen' })).toContainText('loses data');
  await page.getByRole('textbox', { name: 'Name' }).fill('one maker a town');
  await page.getByRole('checkbox', { name: /lose a value/ }).check();
  await page.getByRole('button', { name: 'Apply' }).click();
  await expect(page.getByRole('status', { name: 'Applied' })).toContainText('Done as number 2');
  const made = new Database(ownFile(workbench.folder), { readonly: true });
  expect(made.prepare('select id from makers order by id').pluck().all()).toEqual([1, 5, 6]);
  expect(made.pragma('foreign_key_check')).toEqual([]);
  made.close();
  await page.getByRole('region', { name: 'History' }).getByRole('button', { name: 'Take back…' }).click();
  await page.getByRole('button', { name: 'Take it back' }).click();
  await expect(page.getByRole('region', { name: 'History' })).toContainText('taken back');
  const back = new Database(ownFile(workbench.folder), { readonly: true });
  expect(back.prepare('select id from makers order by id').pluck().all()).toEqual([1, 2, 3, 4, 5, 6, 7]);
  back.close();
});

test('a step by hand stands at a statement of the plan, and is taken back with it', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await makeFile(page);
  await goTo(page, 'design');
  await replaceText(page, (text) =>
    text.replace(
      "founded  integer optional, note 'the year, where it is known'",
      'founded  integer optional\n  motto  text(40) optional',
    ),
  );
  await page.getByRole('link', { name: /^Changes/ }).click();
  await page.getByRole('button', { name: /^SQL of: makers.motto/ }).click();
  await page
    .getByRole('button', { name: /^By hand, at: / })
    .first()
    .click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('radio', { name: 'after the whole plan' }).check();
  await dialog.getByRole('textbox', { name: 'Statement' }).fill('commit');
  await dialog.getByRole('textbox', { name: 'Way back' }).fill("delete from tags where name = 'by hand'");
  await dialog.getByRole('button', { name: 'Put it in' }).click();
  await expect(dialog.getByRole('alert')).toContainText('beyond the plan');
  await dialog.getByRole('textbox', { name: 'Statement' }).fill('update makers set motto = upper(name)\nwhere motto is null');
  await dialog.getByRole('textbox', { name: 'Way back' }).fill("update makers set name = name || '!'");
  await dialog.getByRole('button', { name: 'Put it in' }).click();
  await expect(page.getByRole('region', { name: 'By hand' })).toContainText('By hand after “plan”: update makers');
  await page.getByRole('textbox', { name: 'Name' }).fill('mottos');
  await page.getByRole('button', { name: 'Apply' }).click();
  await expect(page.getByRole('status', { name: 'Applied' })).toContainText('Done as number 2');
  const made = new Database(ownFile(workbench.folder), { readonly: true });
  expect(made.prepare('select count(*) as rows from makers where motto = upper(name)').get()).toEqual({ rows: 7 });
  made.close();
  await page.getByRole('region', { name: 'History' }).getByRole('button', { name: 'Take back…' }).click();
  await page.getByRole('checkbox', { name: /lose a value/ }).check();
  await page.getByRole('button', { name: 'Take it back' }).click();
  await expect(page.getByRole('region', { name: 'History' })).toContainText('taken back');
  const back = new Database(ownFile(workbench.folder), { readonly: true });
  expect(back.prepare("select count(*) as rows from makers where name like '%!'").get()).toEqual({ rows: 7 });
  back.close();
});

test('what somebody else changed in a database is taken into the text, or put back', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await makeFile(page);
  const db = new Database(ownFile(workbench.folder));
  db.exec('alter table makers add column motto text');
  db.close();
  await page.reload();
  const notice = page.getByRole('region', { name: 'Changed by others' });
  await expect(notice).toContainText('makers.motto is new');
  await notice.getByRole('button', { name: 'Put it back…' }).click();
  const happens = page.getByRole('status', { name: 'What would happen' });
  await expect(happens).toContainText('1 change puts it back');
  await page.getByRole('button', { name: 'Back to what the text says' }).click();
  await notice.getByRole('button', { name: 'Take it into the text…' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText('motto');
  await dialog.getByRole('button', { name: 'Take it into the text' }).click();
  // All that is left to do is what a text has checked beside.
  await expect(happens).toContainText('1 change: 1 safe.');
  await expect(page.getByRole('region', { name: 'Changed by others' })).toBeVisible();
  await expect(page.getByRole('region', { name: 'New' })).toContainText('The check makers_motto_type');
});

test('the map shows what is new and what changes', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await makeFile(page);
  await goTo(page, 'design');
  await replaceText(page, (text) => `${text}\nentity Shelf in shelves\n  id     integer key\n  place  text(30) unique\n`);
  await page.getByRole('link', { name: /^Changes/ }).click();
  await page.getByRole('link', { name: 'On the map' }).click();
  await expect(page.getByRole('list', { name: 'In the database, Shelf' })).toContainText('new');
  await page.getByRole('link', { name: 'Back to Changes' }).click();
  await expect(page.getByRole('status', { name: 'What would happen' })).toContainText('1 change: 1 safe');
});

test('a file that lies where it lies is changed there, after a copy beside it', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await makeFile(page);
  const below = mkdtempSync(join(tmpdir(), 'family-tree-lies-'));
  const [file] = readdirSync(workbench.folder, { recursive: true, encoding: 'utf8' }).filter((name) =>
    /(?:^|\/)[0-9a-f-]{36}\.db$/.test(name),
  );
  copyFileSync(join(workbench.folder, file ?? ''), join(below, 'library.db'));
  const db = new Database(join(below, 'library.db'));
  db.exec('drop index loans_due_on_index; create table theirs (id integer primary key)');
  db.close();
  await workbench.serveFolder(below);
  await openDemo(page, workbench);
  await page.getByRole('button', { name: 'scratch database' }).click();
  await page.getByRole('radio', { name: /file/i }).last().check();
  await page.getByRole('button', { name: 'Look at this file' }).click();
  await expect(page.getByRole('dialog')).toBeHidden();
  await goTo(page, 'changes');
  await expect(page.getByRole('status', { name: 'What would happen' })).toContainText('1 change: 1 safe');
  await page.getByRole('textbox', { name: 'Name' }).fill('the index again');
  await page.getByRole('button', { name: 'Apply' }).click();
  await expect(page.getByRole('status', { name: 'Applied' })).toContainText('library.db.before-2');
  expect(existsSync(join(below, 'library.db.before-2'))).toBe(true);
});
