/** `npm run shots`: renews docs/screenshots/ from the demo. */
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import { serve } from '../server/index.js';

const FOLDER = 'docs/screenshots';
const data = mkdtempSync(join(tmpdir(), 'family-tree-shots-'));
mkdirSync(FOLDER, { recursive: true });
const serving = await serve({ data, host: '127.0.0.1', port: 0, token: null, uploadLimit: 1e9, quiet: true });
const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
  ],
});
const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, reducedMotion: 'reduce' });
const shoot = async (name: string) => {
  await page.waitForTimeout(700);
  await page.screenshot({ path: join(FOLDER, `${name}.png`) });
};

const base = `http://127.0.0.1:${serving.port}/`;
await fetch(`${base}api/preferences`, {
  method: 'PATCH',
  headers: { 'content-type': 'application/json' },
  body: JSON.stringify({ tour: 'done' }),
});
await page.goto(base);
await page.getByText('The shelf is empty').waitFor();
await shoot('shelf');
await page.getByRole('button', { name: 'Open the demo' }).click();
await page.getByText(/✓ [\d,]+ rows/).waitFor();
const tree = /^.*\/tree\/[^/]+\//.exec(page.url())?.[0] ?? '';
const go = async (path: string) => {
  await page.goto(`${tree}${path}`);
  await page.getByText(/✓ [\d,]+ rows/).waitFor();
};
await go('design?select=entity:Loan');
await shoot('design-entity');
await go('design?select=relation:borrowing');
await page.getByText('What the rows say').waitFor();
await shoot('design-relation');
await page.getByRole('button', { name: /Turn the page/ }).click();
await go('design?select=relation:seating');
await page.getByText('What the rows say').waitFor();
await shoot('design-dark');
await page.getByRole('button', { name: /Turn the page/ }).click();
await go('design?select=entity:Repair&panel=relate');
await page.getByText('In the text, one-to-many').waitFor();
await shoot('relate');
await go('rows/Player?where=count(loans)%20%3E%208&order=count(loans)%20desc');
await page.getByRole('button', { name: 'Open row 1', exact: true }).waitFor();
await shoot('rows');
await go('rows/Player/1');
await page.getByRole('region', { name: 'loans' }).getByText('all as a grid').waitFor();
await shoot('row');
await go('try?query=overdue_by_branch&p.branch=1&run=1');
await page.getByText('5 statements:').waitFor();
await shoot('try');
await go('try?text=from%20Remark%0Awhere%20body%20like%20%27%25reset%25%27%0Aload%20instrument%0A%20%20branch%20(name)&run=1');
await page.getByText('3 statements:').waitFor();
await page.getByRole('tab', { name: 'Table' }).click();
await page
  .getByRole('button', { name: /plan: full scan/ })
  .first()
  .click();
await page.getByRole('button', { name: 'plan', exact: true }).first().click();
await shoot('try-plan');
await go('design');
await page.keyboard.press('Control+K');
await page.getByRole('combobox', { name: 'What to do' }).fill('foreign key loan');
await shoot('palette');
await browser.close();
await serving.close();
rmSync(data, { recursive: true, force: true });
