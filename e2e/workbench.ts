import { type ChildProcess, spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { test as base, expect, type Page } from '@playwright/test';

/** A workbench of its own for each test: started as a person starts it, on an empty data folder. */
export interface Workbench {
  readonly address: string;
  readonly folder: string;
  /** Ends the server at once, as a crash would. */
  kill(): Promise<void>;
  /** Starts it again on the same port and data. */
  start(): Promise<void>;
  /** Starts it again with a folder below which files may be opened and brought in. */
  serveFolder(folder: string): Promise<void>;
  /** Starts it again with a file of one's own; gives the address that it prints. */
  open(file: string): Promise<string>;
}

interface Running {
  readonly child: ChildProcess;
  readonly port: number;
  readonly address: string;
}

async function start(data: string, port: number, file: string | null = null, below: string | null = null): Promise<Running> {
  const command = file === null ? ['serve', ...(below === null ? [] : ['--folder', below])] : ['open', file];
  const child = spawn(process.execPath, ['dist/cli/main.js', ...command, '--data', data, '--port', String(port)], {
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  const address = await new Promise<string>((resolve, reject) => {
    child.stdout.on('data', (chunk: Buffer) => {
      const at = /http:\S+/.exec(chunk.toString())?.[0];
      if (at !== undefined) resolve(at);
    });
    child.on('exit', (code) => reject(new Error(`the server ended with ${code}`)));
  });
  const base = new URL('/', address).href;
  // The tour is for those who come for the first time; one test takes it.
  await fetch(`${base}api/preferences`, {
    method: 'PATCH',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ tour: 'done' }),
  });
  return { child, port: Number(new URL(address).port), address };
}

async function end(child: ChildProcess): Promise<void> {
  if (child.exitCode !== null || child.signalCode !== null) return;
  await new Promise<void>((resolve) => {
    child.once('exit', () => resolve());
    child.kill('SIGKILL');
  });
}

export const test = base.extend<{ workbench: Workbench }>({
  // biome-ignore lint/correctness/noEmptyPattern: the runner asks for a pattern here
  workbench: async ({}, use) => {
    const folder = mkdtempSync(join(tmpdir(), 'family-tree-browser-'));
    const data = join(folder, 'data');
    let running = await start(data, 0);
    await use({
      address: `http://127.0.0.1:${running.port}/`,
      folder,
      kill: () => end(running.child),
      start: async () => {
        running = await start(data, running.port);
      },
      serveFolder: async (below) => {
        await end(running.child);
        running = await start(data, running.port, null, below);
      },
      open: async (file) => {
        await end(running.child);
        running = await start(data, running.port, file);
        return running.address;
      },
    });
    await end(running.child);
    rmSync(folder, { recursive: true, force: true });
  },
  page: async ({ page }, use) => {
    const errors: string[] = [];
    page.on('pageerror', (error) => errors.push(error.message));
    page.on('console', (message) => {
      if (message.type() === 'error' && !/net::ERR|Failed to load resource/.test(message.text())) errors.push(message.text());
    });
    await use(page);
    if (errors.length > 0) throw new Error(`the page complained: ${errors.join('\n')}`);
  },
});

export { expect } from '@playwright/test';

/** The text of the tree, to write in. */
export const textOf = (page: Page) => page.getByRole('textbox', { name: 'Text of the tree' });

/** Opens the demo from the shelf. */
export async function openDemo(page: Page, workbench: Workbench): Promise<void> {
  await page.goto(workbench.address);
  await page.getByRole('button', { name: 'Open the demo' }).click();
  await textOf(page).waitFor();
}

/** Brings in a SQLite file, and goes to its design. */
export async function bringIn(page: Page, workbench: Workbench, path: string): Promise<void> {
  await page.goto(`${workbench.address}bring-in`);
  await page.getByLabel('SQLite file or SQL script').setInputFiles(path);
  await page.getByRole('heading', { name: 'What came in' }).waitFor();
  await page.getByRole('link', { name: /^Design/ }).click();
}

/** Below the text of the demo stands what is worth knowing of it, and nothing that is wrong or doubtful. */
export async function expectNothingWrong(page: Page): Promise<void> {
  const findings = page.getByRole('list', { name: 'Findings' }).getByRole('listitem');
  await expect(findings).toHaveCount(1);
  await expect(findings).toContainText('its triggers rest on each connection');
}

/** Opens the demo's address below its tree: `rows/Loan`, `try?query=…`. */
export async function goTo(page: Page, path: string): Promise<void> {
  const base = /^.*\/tree\/[^/]+\//.exec(page.url())?.[0] ?? '';
  await page.goto(`${base}${path}`);
}

/** Writes behind everything that stands in the text. */
export async function writeAtEnd(page: Page, text: string): Promise<void> {
  await textOf(page).click();
  await page.keyboard.press('Control+End');
  await page.keyboard.insertText(text);
}

/** Puts another text in the place of the one that stands, as one paste would. */
export async function replaceText(page: Page, edit: (text: string) => string): Promise<void> {
  const tree = /\/tree\/([^/]+)\//.exec(page.url())?.[1] ?? '';
  const answer = await page.request.get(new URL(`/api/trees/${tree}`, page.url()).href);
  const { text } = (await answer.json()) as { text: string };
  const edited = edit(text);
  if (edited === text) throw new Error('nothing was edited');
  await textOf(page).click();
  await page.keyboard.press('Control+A');
  await page.keyboard.insertText(edited);
}
