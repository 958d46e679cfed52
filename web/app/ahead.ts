/** Answers of the server that were asked for before the code that needs them was there, by path. Each is taken once. */
const asked = new Map<string, Promise<Response>>();

/**
 * Asks the server for something that the page is sure to need.
 *
 * @param path from the root, as in `/api/preferences`
 * @param signal ends it
 */
export function fetchAhead(path: string, signal: AbortSignal | null = null): Promise<Response> {
  const answer = fetch(path, { signal });
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
