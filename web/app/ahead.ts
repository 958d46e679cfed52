/** Answers of the server that were there before the code that needs them, by path. Each is taken once. */
const asked = new Map<string, Promise<Response>>();

/**
 * Asks the server for something that the page is sure to need, where it was not told with the page.
 *
 * @param path from the root, as in `/api/preferences`
 * @param signal ends it
 */
export function fetchAhead(path: string, signal: AbortSignal | null = null): Promise<Response> {
  const told = toldWithPage(path);
  const answer = told === undefined ? fetch(path, { signal }) : Promise.resolve(Response.json(told));
  // Whoever takes it hears of the failure.
  answer.catch(() => undefined);
  asked.set(path, answer);
  return answer;
}

/** What was asked for ahead, where it was, else a fetch of now. */
export function fetchOrTake(request: Request): Promise<Response> {
  const path = new URL(request.url).pathname;
  const answer = request.method === 'GET' ? asked.get(path) : undefined;
  if (answer === undefined) return fetch(request);
  asked.delete(path);
  return answer.then((response) => response.clone());
}

let told: Readonly<Record<string, unknown>> | null = null;

/** An answer that came with the page itself; undefined where none did. */
export function toldWithPage(path: string): unknown {
  told ??= JSON.parse(document.getElementById('told-ahead')?.textContent ?? '{}') as Readonly<Record<string, unknown>>;
  return told[path];
}
