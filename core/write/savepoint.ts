import { Refused } from './doing.js';
import type { CommandWork } from './steps.js';
import type { RefusedFor } from './told.js';

/** A place in a transaction to which all that follows can be taken back. */
export class Savepoint {
  constructor(private readonly name: string) {}

  /** Sets it, or sets it anew. */
  *set(): CommandWork<void> {
    yield this.step('savepoint');
  }

  /** Takes back all that came since; it stays set. */
  *back(): CommandWork<void> {
    yield this.step('rollback to savepoint');
  }

  /** Lets go of it, and keeps what came since. */
  *release(): CommandWork<void> {
    yield this.step('release savepoint');
  }

  private step(verb: string) {
    return { kind: 'mark', sql: `${verb} ${this.name}`, values: [] } as const;
  }
}

/** Does work that may be refused halfway: then nothing of it is left, and what stood against it is given. */
export function* guarded<Result, Told>(
  work: CommandWork<Result>,
  tell: (result: Result) => Told,
): CommandWork<Told | { readonly refused: RefusedFor }> {
  const before = new Savepoint('before_row');
  yield* before.set();
  try {
    const result = yield* work;
    yield* before.release();
    return tell(result);
  } catch (error) {
    if (!(error instanceof Refused)) throw error;
    yield* before.back();
    yield* before.release();
    return { refused: error.why };
  }
}
