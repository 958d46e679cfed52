import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { strFromU8, unzipSync } from 'fflate';
import { expect, openDemo, test } from './workbench.js';

test('a design is looked at in each format, copied and kept; a picture is kept as dots, too', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await page.getByRole('link', { name: /^Share/ }).click();
  const formats = page.getByRole('region', { name: 'Formats' });
  await expect(formats).toContainText('"openapi": "3.1.0"');
  for (const [name, words] of [
    ['SQL', 'create table branches'],
    ['TypeScript', 'export interface Loan'],
    ['JSON Schema 2020-12', '"$defs"'],
    ['Markdown', '## Entities'],
    ['DOT', 'digraph'],
    ['Model', '"family-tree model"'],
    ['.kin', 'entity Loan in loans'],
  ] as const) {
    await formats.getByRole('tab', { name, exact: true }).click();
    await expect(formats).toContainText(words);
  }
  await formats.getByRole('tab', { name: 'SVG' }).click();
  const picture = formats.getByRole('img', { name: 'The map of Cinder Row Instrument Library' });
  await expect(picture).toBeVisible();
  await formats.getByRole('combobox', { name: 'of' }).selectOption('Loan and its close kin');
  await formats.getByRole('checkbox', { name: 'dark' }).check();
  await expect(picture).toHaveAttribute('src', /%231a231d/);
  const download = page.waitForEvent('download');
  await formats.getByRole('button', { name: 'Save as .png' }).click();
  const kept = await download;
  expect(kept.suggestedFilename()).toBe('cinder-row-instrument-library.png');
  expect(
    readFileSync(await kept.path())
      .subarray(1, 4)
      .toString(),
  ).toBe('PNG');
});

test('a document is kept with its pictures, and a model is taken in again by whoever it was sent to', async ({
  page,
  workbench,
}) => {
  await openDemo(page, workbench);
  await page.getByRole('link', { name: /^Share/ }).click();
  const formats = page.getByRole('region', { name: 'Formats' });
  await formats.getByRole('tab', { name: 'Markdown' }).click();
  await expect(formats).toContainText('## Entities');
  const packed = page.waitForEvent('download');
  await formats.getByRole('button', { name: 'Save with pictures' }).click();
  const files = unzipSync(readFileSync(await (await packed).path()));
  const folder = 'cinder-row-instrument-library-pictures';
  expect(Object.keys(files)).toEqual(expect.arrayContaining([`${folder}/map.svg`, `${folder}/loan.svg`]));
  expect(strFromU8(files['cinder-row-instrument-library.md'] ?? new Uint8Array())).toContain(`](${folder}/loan.svg)`);

  await formats.getByRole('tab', { name: 'Model' }).click();
  await expect(formats).toContainText('"family-tree model"');
  const saved = page.waitForEvent('download');
  await formats.getByRole('button', { name: 'Save as .model.json' }).click();
  const json = readFileSync(await (await saved).path(), 'utf8');
  await page.goto(workbench.address);
  const chooser = page.getByLabel('A text, or a model');
  const sent = (name: string, content: string) =>
    chooser.setInputFiles({ name, mimeType: 'application/json', buffer: Buffer.from(content) });
  await sent('changed.json', json.replace('"onDelete": "cascade"', '"onDelete": "restrict"'));
  await expect(page.getByRole('alert')).toContainText(
    /changed\.json: At \/relations\/\d+\/onDelete the model says something else/,
  );
  await expect(page.getByRole('alert')).toBeInViewport();
  await sent('library.db', 'SQLite format 3\0');
  await expect(page.getByRole('alert')).toContainText('library.db is no text');
  await sent('library.model.json', json);
  await expect(page).toHaveURL(/\/tree\/[\w-]+\/design/);
  await expect(page.getByRole('banner')).toContainText('✓ 4,038 rows');
});

test('whose addresses they are: a player lists, adds and removes loans of their own; another’s are not there, and Requests tells both', async ({
  page,
  workbench,
}) => {
  await openDemo(page, workbench);
  await expect(page.getByRole('banner')).toContainText('✓ 4,038 rows');
  await page.goto(`${page.url().replace(/design.*/, '')}share`);
  const address = (await page.getByRole('region', { name: 'Live endpoint' }).locator('code').first().textContent()) ?? '';
  const as = (actor: string) => ({ headers: { Actor: actor, 'Content-Type': 'application/vnd.api+json' } });
  const own = await page.request.get(`${address}/players/3/loans`, as('Player(3)'));
  expect(own.status()).toBe(200);
  const data = {
    type: 'loans',
    attributes: { lent_on: '2031-03-01', due_on: '2031-04-01' },
    relationships: { instrument: { data: { type: 'instruments', id: '1' } } },
  };
  const added = await page.request.post(`${address}/players/3/loans`, { ...as('Player(3)'), data: { data } });
  expect(added.status()).toBe(201);
  const { data: loan } = (await added.json()) as { data: { id: string } };
  expect((await page.request.delete(`${address}/loans/${loan.id}`, as('Player(2)'))).status()).toBe(404);
  expect((await page.request.get(`${address}/players/3/loans`, as('nobody'))).status()).toBe(404);
  expect((await page.request.delete(`${address}/loans/${loan.id}`, as('Player(3)'))).status()).toBe(204);
  const requests = page.getByRole('region', { name: 'Requests' });
  await expect(requests.getByRole('button', { name: /404 DELETE .*as Player\(2\)/ })).toBeVisible();
  await expect(requests.getByRole('button', { name: /404 GET .*as nobody/ })).toBeVisible();
  await requests.getByRole('button', { name: /204 DELETE .*as Player\(3\)/ }).click();
  await expect(requests).toContainText('delete Loan(');
  await requests.getByRole('button', { name: /200 GET .*players\/3\/loans.*as Player\(3\)/ }).click();
  await requests.getByRole('link', { name: 'Open in Try' }).click();
  await expect(page).toHaveURL(/\/try\?/);
  await expect(page).toHaveURL(/as=Player/);
  await expect(page.getByRole('textbox', { name: 'Query' })).toContainText('load loans');
});

test('a line for a shell does as it stands, on behalf of whoever is at work, and what it asked is told with its statements', async ({
  page,
  workbench,
}) => {
  await openDemo(page, workbench);
  await expect(page.getByRole('banner')).toContainText('✓ 4,038 rows');
  await page.goto(`${page.url().replace(/design.*/, '')}share?as=Player(2)`);
  await page.getByRole('combobox', { name: 'resources of' }).selectOption('reservations');
  const lines = page.getByRole('list', { name: 'Lines for a shell' });
  const run = async (what: string): Promise<{ readonly data?: { readonly id: string }; readonly errors?: unknown }> => {
    const button = lines.getByRole('button', { name: new RegExp(`^${what}`) });
    await button.click();
    const line = await button.locator('code').textContent();
    await button.click();
    return JSON.parse(execFileSync('/bin/sh', ['-c', `${line} -s`], { encoding: 'utf8' }) || '{}') as { data?: { id: string } };
  };
  expect((await run('one')).errors).toBeUndefined();
  const { data, errors } = await run('add one');
  expect(errors).toBeUndefined();
  const requests = page.getByRole('region', { name: 'Requests' });
  const added = requests.getByRole('button', { name: /201 POST.*as Player\(2\)/ });
  await expect(added).toBeVisible();
  await added.click();
  await expect(requests).toContainText('create Reservation with');
  await expect(requests).toContainText('insert into reservations');
  await page.getByRole('link', { name: /^Rows/ }).click();
  await page
    .getByRole('navigation', { name: 'Entities' })
    .getByRole('button', { name: /^Reservation/ })
    .click();
  await expect(page.getByRole('grid')).toContainText(data?.id ?? 'none');
});
