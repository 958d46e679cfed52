/** A message to a worker. */
export type ToWorker =
  | { readonly kind: 'ask'; readonly id: number; readonly name: string; readonly argument: unknown }
  | { readonly kind: 'stop'; readonly id: number }
  | { readonly kind: 'are you there' };

/** A message from a worker. `at` tells before a piece of work which it is, in case it never comes back from it. */
export type FromWorker =
  | { readonly kind: 'ready' }
  | { readonly kind: 'at'; readonly id: number }
  | { readonly kind: 'step'; readonly id: number; readonly what: unknown }
  | { readonly kind: 'done'; readonly id: number; readonly value: unknown }
  | { readonly kind: 'failed'; readonly id: number; readonly message: string; readonly stack: string }
  | { readonly kind: 'there' };

/** One piece of work: what it is given, when it is stopped, and to whom it tells how far it is. */
export type Work = (
  argument: unknown,
  context: { readonly signal: AbortSignal; readonly step: (what: unknown) => void },
) => unknown;
