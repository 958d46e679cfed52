import { useSyncExternalStore } from 'react';

const AGAIN = 1500;

const watchers = new Set<() => void>();
const comers = new Set<() => void>();
let away = false;
let probing: Promise<void> | null = null;

/** Waits until the server answers; at once where it does. To be called where a request had no answer. */
export function untilReachable(): Promise<void> {
  probing ??= probe().finally(() => {
    probing = null;
    setAway(false);
    for (const came of comers) came();
  });
  return probing;
}

async function probe(): Promise<void> {
  for (;;) {
    const answered = await fetch('/api/preferences').then(
      () => true,
      () => false,
    );
    if (answered) return;
    setAway(true);
    await new Promise((resolve) => setTimeout(resolve, AGAIN));
  }
}

function setAway(now: boolean): void {
  away = now;
  for (const watcher of watchers) watcher();
}

/** Calls each time that the server answers again after a request without an answer. */
export function onReachableAgain(came: () => void): () => void {
  comers.add(came);
  return () => void comers.delete(came);
}

/** Whether the server answers, as far as is known. */
export function useReachable(): boolean {
  return useSyncExternalStore(watch, () => !away);
}

function watch(watcher: () => void): () => void {
  watchers.add(watcher);
  return () => void watchers.delete(watcher);
}
