import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { type Browser, chromium } from '@playwright/test';
import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import Database from 'better-sqlite3';
import express from 'express';
import { build } from 'vite';
import { serve } from '../server/index.js';
import { generatedSchema } from './generated-schema.js';

const ROUNDS = 7;
const MILLION = 1_000_000;

/** What a person waits for in the browser: the first useful paint, a grid of a million rows, typing beside a large map. */
export async function benchPage(): Promise<string[]> {
  if (!existsSync('dist/web/index.html')) return ['page: not measured, since the page is not built (npm run build)'];
  const folder = mkdtempSync(join(tmpdir(), 'family-tree-bench-'));
  const serving = await serve({
    data: join(folder, 'data'),
    host: '127.0.0.1',
    port: 0,
    token: null,
    uploadLimit: 1e9,
    quiet: true,
  });
  const base = `http://127.0.0.1:${serving.port}`;
  const empty = await emptyPage(join(folder, 'empty'));
  const browser = await chromium.launch({
    executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu'],
  });
  try {
    await fetch(`${base}/api/preferences`, {
      method: 'PATCH',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ tour: 'done' }),
    });
    return [
      await firstPaint(browser, base, empty.address),
      ...(await grid(browser, base, folder)),
      await besideLargeMap(browser, base),
    ];
  } finally {
    await browser.close();
    empty.close();
    await serving.close();
    rmSync(folder, { recursive: true, force: true });
  }
}

async function emptyPage(folder: string): Promise<{ address: string; close(): void }> {
  await build({
    root: resolve('bench/empty-page'),
    logLevel: 'silent',
    plugins: [react(), tailwindcss()],
    build: { outDir: folder, emptyOutDir: true },
  });
  const app = express().use(express.static(folder));
  const server = app.listen(0, '127.0.0.1');
  await new Promise((done) => server.once('listening', done));
  return { address: `http://127.0.0.1:${(server.address() as AddressInfo).port}/`, close: () => void server.close() };
}

async function newTree(base: string, body: object): Promise<string> {
  const response = await fetch(`${base}/api/trees`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
  return ((await response.json()) as { id: string }).id;
}

/**
 * From the address to the demo's map, as it is drawn first and as it can be worked with, and to its rows counted, against an
 * empty page of the same stack; each in a fresh browser context.
 */
async function firstPaint(browser: Browser, base: string, empty: string): Promise<string> {
  const tree = await newTree(base, { from: 'demo' });
  // A server that has been running for a moment, as one has that a person finds there.
  await fetch(`${base}/`);
  await new Promise((done) => setTimeout(done, 3000));
  const time = async (address: string, words: string) => {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.addInitScript(watch(words));
    await page.goto(address, { waitUntil: 'commit' });
    let passed: number | undefined;
    while (passed === undefined) {
      await page.waitForTimeout(50);
      passed = (await page.evaluate('globalThis.seenAfter')) as number | undefined;
    }
    await page.close();
    return passed;
  };
  const times = { seen: [] as number[], demo: [] as number[], rows: [] as number[], empty: [] as number[] };
  for (let round = 0; round < ROUNDS; round++) {
    times.empty.push(await time(empty, 'Nothing here'));
    times.seen.push(await time(`${base}/tree/${tree}/design`, 'The map of Cinder Row|Loan, table loans'));
    times.demo.push(await time(`${base}/tree/${tree}/design`, 'Loan, table loans'));
    times.rows.push(await time(`${base}/tree/${tree}/design`, '✓ [\\d,]+ rows'));
  }
  const blank = middle(times.empty);
  const told = (all: readonly number[]) => `${(middle(all) / blank).toFixed(2)} (${middle(all).toFixed(0)} ms)`;
  return `first useful paint of the demo, its map: ${told(times.seen)} × an empty page of the same stack (${blank.toFixed(0)} ms); the map that can be worked with: ${told(times.demo)}; with its rows counted: ${told(times.rows)}`;
}

/**
 * Notes at each frame whether words are in view, as text or as a label: the milliseconds from the address on. Asking from
 * outside would add up to half a second between two looks.
 */
const watch = (words: string) => `
  const wanted = new RegExp(${JSON.stringify(words)});
  const look = () => {
    for (const element of document.querySelectorAll('[aria-label], [role=status], h1'))
      if (wanted.test(element.ariaLabel ?? element.textContent) && element.checkVisibility({ visibilityProperty: true })) {
        globalThis.seenAfter = performance.now();
        return;
      }
    requestAnimationFrame(look);
  };
  requestAnimationFrame(look)`;

/** The longest frame while a grid of a million rows is scrolled from end to end, against a plain list of words as high. */
async function grid(browser: Browser, base: string, folder: string): Promise<string[]> {
  const path = join(folder, 'million.db');
  const db = new Database(path);
  db.exec(`create table readings (id integer primary key, label text not null, reading integer, taken_on text);
    with recursive n(i) as (select 1 union all select i + 1 from n where i < ${MILLION})
    insert into readings select i, 'reading ' || i, i % 97, date('2031-01-01', '-' || (i % 900) || ' days') from n;`);
  db.close();
  const { readFile } = await import('node:fs/promises');
  const upload = await fetch(`${base}/api/databases?name=million.db`, {
    method: 'POST',
    headers: { 'content-type': 'application/octet-stream' },
    body: await readFile(path),
  });
  const { tree } = (await upload.json()) as { tree: { id: string } };
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const started = performance.now();
  await page.goto(`${base}/tree/${tree.id}/rows/Reading`);
  await page.getByText('1,000,000 rows').waitFor();
  const opened = performance.now() - started;
  const own = (await page.evaluate(`(${SCROLL})('[role=grid]')`)) as Frames;
  await page.setContent(
    `<div id="list" style="height:700px;overflow:auto"><div style="height:${MILLION * 28}px;background:linear-gradient(white,grey)">words</div></div>`,
  );
  const plain = (await page.evaluate(`(${SCROLL})('#list')`)) as Frames;
  await page.close();
  return [
    `a grid of 1,000,000 rows, scrolled from end to end: longest frame ${(own.longest / plain.longest).toFixed(2)} × that of an empty scroller as high (${own.longest.toFixed(0)} ms against ${plain.longest.toFixed(0)} ms), mean frame ${(own.mean / plain.mean).toFixed(2)}; first rows after ${opened.toFixed(0)} ms`,
  ];
}

interface Frames {
  readonly longest: number;
  readonly mean: number;
}

/** Scrolls an element through its whole height in 240 steps, a frame each, and measures the frames. */
const SCROLL = `async (selector) => {
  const element = document.querySelector(selector);
  const frames = [];
  let last = performance.now();
  for (let step = 0; step <= 240; step++) {
    element.scrollTop = (element.scrollHeight * step) / 240;
    await new Promise((done) => requestAnimationFrame(done));
    const now = performance.now();
    frames.push(now - last);
    last = now;
  }
  return { longest: Math.max(...frames.slice(1)), mean: frames.reduce((sum, frame) => sum + frame, 0) / frames.length };
}`;

/** How long the page does not answer while a map of 1,000 entities is laid out anew, by a change of how much it shows. */
async function besideLargeMap(browser: Browser, base: string): Promise<string> {
  const tree = await newTree(base, { from: 'text', text: generatedSchema(1000) });
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.goto(`${base}/tree/${tree}/design`);
  await page.getByRole('button', { name: 'Fit', exact: true }).waitFor();
  await page.locator('.react-flow__node').first().waitFor();
  await page.waitForTimeout(3000);
  const measured = (await page.evaluate(`(async () => {
    const delays = [];
    let watching = true;
    const tick = (due) => {
      delays.push(performance.now() - due);
      if (watching) setTimeout(tick, 4, performance.now() + 4);
    };
    setTimeout(tick, 4, performance.now() + 4);
    const worker = new Worker(Array.from(performance.getEntriesByType('resource')).map((entry) => entry.name).find((name) => /design\\.worker/.test(name)), { type: 'module' });
    const text = document.querySelector('.cm-content').cmTile?.view?.state.doc.toString() ?? '';
    const answered = new Promise((done) => { worker.onmessage = done; });
    worker.postMessage({ id: 1, kind: 'map', ask: { text, options: { lines: 'all', folded: [] } } });
    await answered;
    watching = false;
    worker.terminate();
    return { longest: Math.max(...delays), turns: delays.length, letters: text.length };
  })()`)) as { longest: number; turns: number; letters: number };
  await page.close();
  return `while the worker reads and lays out 1,000 entities the page answers within ${measured.longest.toFixed(0)} ms (${measured.turns} turns, ${measured.letters} letters)`;
}

function middle(values: readonly number[]): number {
  return [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] ?? 0;
}
