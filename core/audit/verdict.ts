/** What the end of an audit is told by. */
interface Audited {
  /** Kinds of actors that the walls tell apart; none where there are no walls. */
  readonly actors: readonly unknown[];
  readonly done: number;
  readonly all: number;
  readonly ways: Readonly<Record<string, { readonly held: number; readonly leaked: number }>>;
  readonly holes: readonly { readonly weight: 'leak' | 'doubt' }[];
  /** What could not be tried: so many ways; none where it could not be told which there are. */
  readonly untried: readonly { readonly ways: number }[];
}

/** How many ways were tried, and how many of them got round a wall. */
export function waysTried({ ways }: Pick<Audited, 'ways'>): { readonly tried: number; readonly leaked: number } {
  const all = Object.values(ways);
  const leaked = all.reduce((sum, one) => sum + one.leaked, 0);
  return { tried: all.reduce((sum, one) => sum + one.held + one.leaked, 0), leaked };
}

/** Whether an audit has found a way round a wall, or a row that no wall keeps from others. */
export function hasLeaks(audit: Pick<Audited, 'ways' | 'holes'>): boolean {
  return waysTried(audit).leaked > 0 || audit.holes.some(({ weight }) => weight === 'leak');
}

/** Whether an audit could look at all that there is to try: an engine may have refused, or somebody be gone. */
export function isWhole({ untried }: Pick<Audited, 'untried'>): boolean {
  return untried.every(({ ways }) => ways > 0);
}

/** The sentence that tells what an audit has come to. */
export function verdictOf(audit: Audited): string {
  const { tried, leaked } = waysTried(audit);
  if (audit.actors.length === 0) return 'The text has no wall: nothing keeps anybody from any row. No way was tried.';
  const isDone = audit.done >= audit.all;
  const ways = `${tried.toLocaleString('en')} ways tried`;
  const lacks = isWhole(audit) ? '' : ' Not all could be looked at.';
  if (hasLeaks(audit)) {
    const open = audit.holes.filter(({ weight }) => weight === 'leak').length;
    const round = leaked === 0 ? [] : [`${leaked.toLocaleString('en')} of them went round a wall`];
    const left = open === 0 ? [] : [`${open.toLocaleString('en')} ${open === 1 ? 'place is' : 'places are'} left open`];
    return `${ways}: ${[...round, ...left].join(', and ')}.${lacks}`;
  }
  if (isDone && tried === 0) return `No way was tried: no row was found that is out of anybody’s reach.${lacks}`;
  return `No way round found${isDone ? '' : ' so far'}; ${ways}.${lacks}`;
}
