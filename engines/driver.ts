/**
 * Carries out work that yields one step after the other, and is resumed with what came of each.
 *
 * @param run answers a step at once
 * @throws what a step throws, and what the work makes of it
 */
export function drive<Step, Result, Answer>(work: Generator<Step, Result, Answer>, run: (step: Step) => Answer): Result {
  let turn = work.next();
  while (turn.done !== true) turn = work.next(run(turn.value));
  return turn.value;
}

/** The same where a step takes a while. */
export async function driveLater<Step, Result, Answer>(
  work: Generator<Step, Result, Answer>,
  run: (step: Step) => Promise<Answer>,
): Promise<Result> {
  let turn = work.next();
  while (turn.done !== true) turn = work.next(await run(turn.value));
  return turn.value;
}
