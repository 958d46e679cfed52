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

await page.goto(`http://127.0.0.1:${serving.port}/`);
await page.getByText('The shelf is empty').waitFor();
await shoot('shelf');
await page.getByRole('button', { name: 'Open the demo' }).click();
await page.getByText('rows', { exact: false }).first().waitFor();
await page.getByLabel('Loan, table loans').click();
await shoot('design-entity');
const design = page.url().split('?')[0] ?? '';
await page.goto(`${design}?select=relation:borrowing`);
await page.getByRole('article').waitFor();
await shoot('design-relation');
await page.getByRole('button', { name: /Turn the page/ }).click();
await page.goto(`${design}?select=relation:seating`);
await page.getByRole('article').waitFor();
await shoot('design-dark');
await page.getByRole('button', { name: /Turn the page/ }).click();
await page.getByRole('link', { name: 'Try' }).click();
await page.getByLabel('branch', { exact: true }).selectOption('North Quay');
await page.getByRole('button', { name: /Run/ }).click();
await page.getByText('5 statements:').waitFor();
await page.mouse.move(640, 700);
await shoot('try');
await browser.close();
await serving.close();
rmSync(data, { recursive: true, force: true });
