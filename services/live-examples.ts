import type { Examples } from '../core/formats/index.js';
import { answerLive } from './answer-live.js';
import { nowOf } from './clock.js';
import { type LiveDatabase, resourcesIn } from './live-request.js';
import type { LookedAt } from './looked-at.js';

/** The address that examples begin with. */
const BASE = '/live/TREE';

/** Documents of real rows, by the path and the name that they are examples of: a page of one, and a resource, of each collection. */
export async function examplesOf(
  lookedAt: Omit<LookedAt, 'actor'>,
  signal: AbortSignal = new AbortController().signal,
): Promise<{ readonly examples: Examples } | { readonly problem: string }> {
  const { design, madeHere } = lookedAt;
  const live: LiveDatabase = {
    ...lookedAt,
    now: nowOf(design.model, madeHere),
    write: () => Promise.reject(new Error('examples are read alone')),
  };
  const examples = new Map<string, unknown>();
  for (const { name } of resourcesIn(design).byName.values()) {
    const request = {
      method: 'GET',
      as: { kind: 'system' },
      base: BASE,
      body: undefined,
      ifMatch: null,
      ifNoneMatch: null,
      signal,
    } as const;
    const page = await answerLive(live, { ...request, parts: [name], parameters: [['page[size]', '1']] });
    if (page.status !== 200) return { problem: `The rows of ${name} could not be read for an example.` };
    const list: unknown = JSON.parse(page.body);
    examples.set(`/${name}`, list);
    const id = firstId(list);
    if (id === null) continue;
    const one = await answerLive(live, { ...request, parts: [name, id], parameters: [] });
    if (one.status === 200) examples.set(`/${name}/{id}`, JSON.parse(one.body));
  }
  return { examples };
}

function firstId(document: unknown): string | null {
  const data: unknown = typeof document === 'object' && document !== null && 'data' in document ? document.data : null;
  const [first] = Array.isArray(data) ? (data as readonly { readonly id?: unknown }[]) : [];
  return typeof first?.id === 'string' ? first.id : null;
}
