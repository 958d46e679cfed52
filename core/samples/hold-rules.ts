import { type Condition, type Expression, entityOf, lineage, type Model, someExpression } from '../model/index.js';
import type { Wire } from '../values/index.js';
import type { MadeRow } from './made.js';
import { chanceFor } from './random.js';
import { RowGraph } from './row-graph.js';

/** A cell that can be chosen anew by itself: another row to point at, or a value of its own. */
export interface Choice {
  /** The role or the field by which a rule speaks of it. */
  readonly member: string;
  /** The values of its columns, by chance. */
  choose(row: MadeRow, attempt: number): readonly (readonly [string, Wire])[];
}

/** The rows of one entity that were made by chance, and what holds them to the rest of the text. */
export interface Adjustable {
  readonly entity: string;
  /** Where the rows begin that nobody named. */
  readonly from: number;
  readonly choices: readonly Choice[];
  /** Puts a row in the place of another, unless its own columns break something then; whether it did. */
  exchange(row: MadeRow, instead: MadeRow): boolean;
}

const MOST_TRIES = 80;
/** How many rows are tried again; beyond, the time is worth more than the rows. */
const MOST_ROWS = 20_000;
/** Where so many rows one after the other could not be mended, the others are not tried: no choice helps. */
const MOST_FAILED = 40;
/** A row that is mended can break the rule of another. */
const ROUNDS = 3;

/**
 * Rows that were made by chance break rules that walk over relations: they are made to hold to them by other choices, where
 * there are such. What none of the choices helps stays as it is, and is found in the rows.
 *
 * @param made the rows by entity; those that are mended are replaced in it
 */
export function holdRules(model: Model, made: Map<string, MadeRow[]>, adjustable: readonly Adjustable[], now: string): void {
  const graph = new RowGraph(model, made, now);
  let left = MOST_ROWS;
  for (let round = 0; round < ROUNDS; round++) {
    let changed = false;
    for (const one of adjustable) {
      const rules = lineage(model, one.entity).flatMap(({ name }) => entityOf(model, name).rules);
      const spoken = membersOf(rules);
      const choices = one.choices.filter(({ member }) => spoken.has(member));
      const rows = made.get(one.entity) ?? [];
      if (rules.length === 0 || choices.length === 0) continue;
      const breaks = (row: MadeRow) => rules.some(({ expression }) => graph.holds(expression, one.entity, row) === false);
      let failed = 0;
      for (let index = one.from; index < rows.length && left > 0 && failed < MOST_FAILED; index++) {
        const row = rows[index];
        if (row === undefined || !breaks(row)) continue;
        left -= 1;
        const better = mended(one, choices, row, index + round * rows.length, breaks);
        failed = better === null ? failed + 1 : 0;
        if (better === null) continue;
        rows[index] = better;
        graph.replace(one.entity, row, better);
        changed = true;
      }
    }
    if (!changed) return;
  }
}

/** The row with one of its choices made anew, then with several. */
function mended(
  one: Adjustable,
  choices: readonly Choice[],
  row: MadeRow,
  index: number,
  breaks: (row: MadeRow) => boolean,
): MadeRow | null {
  for (let attempt = 1; attempt <= MOST_TRIES; attempt++) {
    const several = attempt > MOST_TRIES / 2;
    const single = chanceFor(one.entity, 'mend', index, attempt).pick(choices);
    const changed = several ? choices : single === undefined ? [] : [single];
    const values = changed.flatMap((choice) => choice.choose(row, attempt + index * MOST_TRIES));
    const candidate = new Map([...row, ...values]);
    if (!breaks(candidate) && one.exchange(row, candidate)) return candidate;
  }
  return null;
}

/** The roles and fields of its own row that rules speak of. */
function membersOf(rules: readonly Condition[]): Set<string> {
  const members = new Set<string>();
  const look = (expression: Expression): void => {
    someExpression(expression, (part) => {
      const first = 'hops' in part ? part.hops[0] : undefined;
      if (first !== undefined) members.add('role' in first ? first.role.name : first.name);
      else if (part.kind === 'field') members.add(part.field);
      if (part.kind === 'same row' || part.kind === 'points at')
        for (const branch of 'branches' in part ? part.branches : []) members.add(branch.name);
      return false;
    });
  };
  for (const { expression } of rules) look(expression);
  return members;
}
