import type { Page } from '@playwright/test';
import { expect, openDemo, test, textOf, writeAtEnd } from './workbench.js';

/** Waits until the server tells a page what its tree is opened with. */
async function untilTold(page: Page): Promise<void> {
  await expect.poll(async () => (await (await page.request.get(page.url())).text()).includes('"opening":{')).toBe(true);
}

/** Keeps the page's own code on its way until it is let go. */
async function holdCode(page: Page): Promise<() => void> {
  let letGo: () => void = () => undefined;
  const gone = new Promise<void>((resolve) => {
    letGo = resolve;
  });
  await page.route('**/assets/page-*.js', async (route) => {
    await gone;
    await route.continue();
  });
  return letGo;
}

const firstPicture = (page: Page) =>
  page.getByRole('img', { name: 'The map of Cinder Row Instrument Library, which is being opened' });

test('the map is there before the code of the page, at the place where it stays', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await untilTold(page);
  const letGo = await holdCode(page);
  await page.reload({ waitUntil: 'commit' });
  await expect(firstPicture(page)).toBeVisible();
  const names = ['Loan', 'Maker', 'Hall', 'branch_id'];
  const placesIn = async (within: ReturnType<typeof firstPicture>) =>
    Promise.all(names.map((name) => within.getByText(name, { exact: true }).first().boundingBox()));
  // Letters have their width once their font is there.
  await page.evaluate('document.fonts.ready.then(() => undefined)');
  const before = await placesIn(firstPicture(page));
  letGo();
  const map = page.getByRole('application', { name: 'Map' });
  await expect(map.getByLabel('Loan, table loans')).toBeVisible();
  await expect(firstPicture(page)).toBeHidden();
  const after = await placesIn(map);
  names.forEach((name, at) => {
    expect(Math.abs((before[at]?.x ?? 0) - (after[at]?.x ?? 9e9)), name).toBeLessThan(2);
    expect(Math.abs((before[at]?.y ?? 0) - (after[at]?.y ?? 9e9)), name).toBeLessThan(2);
  });
});

test('a click on the first picture of a map counts', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await untilTold(page);
  const letGo = await holdCode(page);
  await page.reload({ waitUntil: 'commit' });
  await firstPicture(page).getByText('Loan', { exact: true }).click();
  letGo();
  await expect(page.getByRole('article', { name: 'Card of Loan' })).toBeVisible();
});

test('a tree is opened with what was typed and never saved, whatever the server told', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await untilTold(page);
  // The server does not take it in.
  await page.route('**/api/trees/*/text', (route) => route.abort());
  await writeAtEnd(page, '\nentity Shelf\n  id integer key\n');
  await expect(page.getByLabel('Shelf, table shelves')).toBeVisible();
  await page.reload();
  await expect(textOf(page)).toContainText('entity Branch');
  await expect(page.getByLabel('Shelf, table shelves')).toBeVisible();
});

test('a selection in the address is what the map is opened at', async ({ page, workbench }) => {
  await openDemo(page, workbench);
  await untilTold(page);
  await page.goto(`${page.url().split('?')[0]}?select=entity:Loan&sheet=kin`);
  await expect(page.getByLabel('Loan, table loans')).toBeVisible();
  await expect(page.getByLabel('Hall, table halls')).toBeHidden();
  await expect(page.getByRole('article', { name: 'Card of Loan' })).toBeVisible();
});
