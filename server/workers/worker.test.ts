import { fileURLToPath } from 'node:url';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import { openChild } from '../../engines/child.js';
import { Worker, WorkLost } from './index.js';

const file = fileURLToPath(new URL('../../tests/works/trying.ts', import.meta.url));
let worker: Worker;
beforeEach(() => {
  worker = new Worker({ file, memoryMegabytes: 80, patience: 2000 });
});
afterEach(() => worker.close());

describe('a worker', () => {
  test('answers several works at once', async () => {
    expect(await Promise.all([worker.ask('later', 1), worker.ask('echo', { two: 2 })])).toEqual([1, { two: 2 }]);
  });

  test('that is stuck is ended: its work is lost, and whoever waits is asked again', async () => {
    expect(await worker.ask('echo', 0)).toBe(0);
    const waits = worker.ask('later', 'waited');
    const stuck = worker.ask('stuck', null);
    await expect(stuck).rejects.toThrow(/longer than 2 s/);
    await expect(stuck).rejects.toBeInstanceOf(WorkLost);
    expect(await waits).toBe('waited');
    expect(await worker.ask('echo', 'and on')).toBe('and on');
  });

  test('that needs more memory than it may have is ended, and says so', async () => {
    const patient = new Worker({ file, memoryMegabytes: 80, patience: 60_000 });
    await expect(patient.ask('grow', null)).rejects.toThrow(/more memory than it may have/);
    expect(await patient.ask('echo', 'and on')).toBe('and on');
    await patient.close();
  });

  test('whose process ends is started again', async () => {
    await expect(worker.ask('end', null)).rejects.toThrow(/process ended/);
    expect(await worker.ask('echo', 'and on')).toBe('and on');
  });

  test('tells what a work throws, which is no loss', async () => {
    const wrong = worker.ask('wrong', null);
    await expect(wrong).rejects.toThrow('it went wrong');
    await expect(wrong).rejects.not.toBeInstanceOf(WorkLost);
  });

  test('stops a work that is told to, and no other', async () => {
    const later = worker.ask('later', 'goes on');
    expect(await worker.ask('stopped', null, { signal: AbortSignal.timeout(50) })).toBe('it was stopped');
    expect(await later).toBe('goes on');
  });

  test('puts what it began with to a process that is started again, before anything else', async () => {
    await worker.begin('remember', 'the text', 'remember', () => undefined);
    await expect(worker.ask('end', null)).rejects.toThrow();
    expect(await worker.ask('recall', null)).toBe('the text');
  });
});

describe('the process of a database', () => {
  const open = (file: string) => openChild({ file, args: [], milliseconds: 20_000, memoryMegabytes: 80 });

  test('that cannot be started is a problem of the call, and of nothing else', async () => {
    const child = open('/nowhere/at-all.js');
    expect(await child.call({ kind: 'read', sql: 'select 1', parameters: {}, said: [] }, null)).toMatchObject({
      ok: false,
      problem: { code: 'ended' },
    });
    await child.close();
  });
});
