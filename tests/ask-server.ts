/** What a server answered. */
export interface Answered {
  readonly status: number;
  readonly body: Record<string, unknown>;
}

/** Asks a server of a test as the page does. */
export function askServer(port: () => number): (method: string, path: string, body?: unknown) => Promise<Answered> {
  return async (method, path, body) => {
    const answer = await fetch(`http://127.0.0.1:${port()}/api/${path}`, {
      method,
      headers: { 'content-type': 'application/json' },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
    return { status: answer.status, body: (await answer.json()) as Record<string, unknown> };
  };
}
