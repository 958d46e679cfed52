import type { Page } from '@playwright/test';

/**
 * Pictures of Changes, on a database of the demo: a plan that asks, one that loses data, its rehearsal, and a quiet one with its
 * history. The text of the demo is another one afterwards.
 *
 * @param text the tree's text
 * @param save puts another text in its place
 */
export async function shootChanges(
  page: Page,
  {
    text,
    go,
    save,
    shoot,
  }: {
    readonly text: string;
    go(path: string): Promise<void>;
    save(text: string): Promise<void>;
    shoot(name: string): Promise<void>;
  },
): Promise<void> {
  const happens = page.getByRole('status', { name: 'What would happen' });
  await go('changes');
  await page.getByRole('button', { name: 'Make the file' }).click();
  await happens.filter({ hasText: 'Nothing to do' }).waitFor();
  const changed = text
    .replace("note 'the year, where it is known'", "note 'the year, where it is known'\n  motto    text(40)")
    .replace(
      "town  text(60) optional\n  shown as name\n  order by name\n  note 'A house",
      "city  text(60) optional\n  shown as name\n  order by name\n  note 'A house",
    )
    .replace(/^sample Branch\n(?: {2}.*\n)+/m, (sample) => sample.replaceAll(', town ', ', city '))
    .replace(
      '\nentity Tag in tags',
      '\nentity Shelf in shelves\n  id     integer key\n  place  text(30) unique\n\nentity Tag in tags',
    )
    .replace('  portrait  text(200) optional\n', '')
    .replace(/.*portrait_url.*\n/, '')
    .replace(/.*portrait 'ferry.*\n/, '');
  await save(changed);
  await go('changes');
  await page
    .getByRole('region', { name: /^Question/ })
    .first()
    .waitFor();
  await page
    .getByRole('textbox', { name: 'Answers, a line each' })
    .fill("value makers.motto = 'by hand'\ncolumn branches.city was town\n");
  await page.getByRole('button', { name: 'Keep' }).click();
  await happens.filter({ hasText: 'loses data' }).waitFor();
  await page.getByRole('textbox', { name: 'Name' }).fill('mottos, and no portraits');
  await page.getByRole('checkbox', { name: /lose a value/ }).check();
  await page.getByRole('button', { name: /^SQL of: makers.motto/ }).click();
  await page.getByRole('button', { name: 'Rehearse', exact: true }).click();
  await page.getByRole('status', { name: 'Rehearsal' }).waitFor();
  await shoot('changes-rehearsal');
}
