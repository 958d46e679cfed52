import * as v from 'valibot';
import { Preferences } from '../../contract/index.js';
import { fetchOrTake, toldWithPage } from './ahead.js';

const PATH = '/api/preferences';
const PREFIX = 'family-tree.';

/**
 * What a person has set, for as long as the page is open in this browser's own storage, and in the server's store for
 * good. Names carry no prefix on the server.
 */
export const preferences = {
  getItem: (name: string): string | null => localStorage.getItem(PREFIX + name),
  setItem(name: string, value: string): void {
    if (localStorage.getItem(PREFIX + name) === value) return;
    localStorage.setItem(PREFIX + name, value);
    const body = JSON.stringify({ [name]: value });
    // A server that does not answer costs the preference, and nothing else.
    void fetch('/api/preferences', { method: 'PATCH', headers: { 'content-type': 'application/json' }, body }).catch(
      () => undefined,
    );
  },
};

/** Takes over what the server keeps, at once where it came with the page; without an answer, what the browser has stays. */
export async function loadPreferences(): Promise<void> {
  try {
    const kept = v.parse(Preferences, toldWithPage(PATH) ?? (await (await fetchOrTake(new Request(PATH))).json()));
    for (const [name, value] of Object.entries(kept)) localStorage.setItem(PREFIX + name, value);
  } catch {
    // The page says elsewhere that the server is gone.
  }
}
