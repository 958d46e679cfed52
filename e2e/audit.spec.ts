import { WALLED_LIBRARY } from '../tests/walled-library.js';
import { expect, goTo, openDemo, replaceText, test } from './workbench.js';

test('an audit is stopped and goes on; a wall that was taken away is named, closed by its line, and then nothing gets round', async ({
  page,
  workbench,
}) => {
  test.setTimeout(300_000);
  await openDemo(page, workbench);
  await expect(page.getByRole('banner')).toContainText('✓ 4,038 rows');
  await page.getByRole('link', { name: /^Reach/ }).click();
  const audit = page.getByRole('region', { name: 'The audit' });
  const verdict = audit.getByRole('status', { name: 'Verdict' });
  await audit.getByRole('button', { name: 'Try every way' }).click();
  await expect(verdict).toContainText('No way round found so far');
  // It goes on while another screen is looked at.
  const tree = /tree\/([^/]+)/.exec(page.url())?.[1] ?? '';
  const done = async () => {
    const answer = await page.request.get(new URL(`/api/trees/${tree}/audits`, page.url()).href);
    return ((await answer.json()) as { latest: { state: { done: number } } }).latest.state.done;
  };
  await page.getByRole('link', { name: /^Rows/ }).click();
  await expect(page).toHaveURL(/\/rows/);
  const before = await done();
  await expect.poll(done, { timeout: 30_000 }).toBeGreaterThan(before);
  await page.getByRole('link', { name: /^Reach/ }).click();
  await audit.getByRole('button', { name: 'Stop' }).click();
  await expect(verdict).toContainText(/No way round found so far; .* Stopped\./);
  await page.reload();
  await expect(verdict).toContainText(/No way round found so far; .* Stopped\./);
  await expect(audit.getByRole('button', { name: 'Go on' })).toBeVisible();

  // Loans without their wall, and a wall that everybody is free of.
  await page.getByRole('link', { name: /^Design/ }).click();
  const open = WALLED_LIBRARY.replace('  Loan where borrower.branch = me.branch\n', '');
  await replaceText(page, () => open);
  await expect(page.getByRole('banner')).toContainText('✓ 21 rows');
  await expect(page.getByRole('banner')).toContainText('saved');
  await page.getByRole('link', { name: /^Reach/ }).click();
  await expect(audit).toContainText('of a text that is another since');
  await audit.getByRole('button', { name: 'Try every way again' }).click();
  await expect(verdict).toContainText('1 place is left open', { timeout: 120_000 });
  const found = audit.getByRole('list', { name: 'What was found' });
  await expect(found).toContainText('No wall stands on Loan: Player(1) reads and changes Loan(3)');
  await expect(audit.getByRole('button', { name: 'Stop' })).toHaveCount(0, { timeout: 120_000 });

  // The row that got out, as they see it.
  await found.getByRole('link', { name: 'from Loan where id = 3' }).click();
  await expect(page).toHaveURL(/as=Player%281%29/);
  await page.getByRole('button', { name: /^Run/ }).click();
  await expect(page.getByRole('tree', { name: 'Answer' })).toContainText('3');
  await goTo(page, 'reach');

  await found.getByRole('button', { name: /^Write “Loan where borrower.branch = me.branch” into wall own_branch/ }).click();
  await page.getByRole('button', { name: 'Change the text' }).click();
  await expect(audit).toContainText('of a text that is another since');
  await expect(page.getByRole('banner')).toContainText('✓ 21 rows');
  await audit.getByRole('button', { name: 'Try every way again' }).click();
  await expect(verdict).toContainText('No way round found;', { timeout: 120_000 });
  await expect(audit.getByRole('list', { name: 'Ways by their kind' })).toContainText('delete that reaches behind a wall');
});
