import type { Page } from '@playwright/test';
import { generatedSchema } from '../bench/generated-schema.js';
import { expect, goTo, test, textOf, type Workbench } from './workbench.js';

/** Opens a design of so many entities, of which some have a field that looks like a secret. */
async function openLarge(page: Page, workbench: Workbench, entities: number, secrets = 0): Promise<void> {
  let left = secrets;
  const text = generatedSchema(entities).replace(/^ {2}field_0 {2}/gm, (line) => (left-- > 0 ? '  password ' : line));
  const response = await page.request.post(`${workbench.address}api/trees`, { data: { from: 'text', text } });
  const { id } = (await response.json()) as { id: string };
  await page.goto(`${workbench.address}tree/${id}/design`);
  await textOf(page).waitFor();
  await page.getByText('Drawing the map…').waitFor({ state: 'hidden' });
}

const label = (page: Page, name: string) => page.getByLabel(new RegExp(`^${name}, table `));

for (const entities of [173, 500])
  test(`in a design of ${entities} a selection lays out its close kin, step by step, and the whole map comes back`, async ({
    page,
    workbench,
  }) => {
    test.slow();
    await openLarge(page, workbench, entities);
    const find = page.getByLabel('Find an entity on the map');
    await find.fill('E100');
    await find.press('Enter');
    const kin = page.getByRole('region', { name: 'Close kin' });
    await expect(kin).toBeVisible();
    await expect(label(page, 'E100')).toBeInViewport({ ratio: 1 });
    const near = await page.getByLabel(/^E\d+, table /).count();
    expect(near).toBeGreaterThan(1);
    expect(near).toBeLessThan(60);
    await kin.getByRole('button', { name: 'A step further' }).click();
    await expect.poll(() => page.getByLabel(/^E\d+, table /).count()).toBeGreaterThan(near);
    await kin.getByRole('button', { name: 'Whole map' }).click();
    await expect(kin).toBeHidden();
    await page.keyboard.press('k');
    await expect(kin).toBeVisible();
  });

test('the whole of a large map comes to what is selected elsewhere', async ({ page, workbench }) => {
  test.slow();
  await openLarge(page, workbench, 173);
  await goTo(page, 'design?sheet=whole&select=entity:E171');
  await expect(label(page, 'E171')).toBeInViewport({ ratio: 1 });
  await goTo(page, 'design?sheet=whole&select=entity:E2');
  await expect(label(page, 'E2')).toBeInViewport({ ratio: 1 });
});

test('findings that say the same are one, and are mended at all their places by one change', async ({ page, workbench }) => {
  test.slow();
  await openLarge(page, workbench, 173, 36);
  const below = page.getByRole('list', { name: 'Findings' });
  await expect(below.getByRole('listitem')).toHaveCount(1);
  await expect(below).toContainText('36 places');
  await goTo(page, 'findings');
  await expect(page.getByRole('list', { name: 'Places of secret field' }).getByRole('listitem')).toHaveCount(5);
  await page.getByRole('button', { name: 'Hide it, all 36…' }).click();
  const preview = page.getByRole('region', { name: 'Preview: Hide it, at 36 places' });
  await preview.getByRole('button', { name: 'Change the text' }).click();
  await expect(page.getByRole('list', { name: 'Places of secret field' })).toBeHidden();
  await expect(page.getByText('no findings in the text')).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('list', { name: 'Places of secret field' })).toBeVisible();
});

test('what is wrong is told while one types in a design of 500 entities', async ({ page, workbench }) => {
  test.slow();
  await openLarge(page, workbench, 500);
  await textOf(page).click();
  await page.keyboard.press('Control+End');
  await page.keyboard.insertText('\nentity Late\n  id integer key\n  name txet\n');
  await expect(page.getByRole('list', { name: 'Findings' })).toContainText('txet');
  await page.keyboard.insertText('\nentity Later\n  id integer key\n');
  const find = page.getByLabel('Find an entity on the map');
  await find.fill('Later');
  // It is found as soon as the text has been read.
  await expect(async () => {
    await find.press('Enter');
    await expect(label(page, 'Later')).toBeVisible({ timeout: 2000 });
  }).toPass();
});
