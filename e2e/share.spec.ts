import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
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
