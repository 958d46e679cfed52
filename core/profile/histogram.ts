/** Parents by the number of their children, in a few steps. */
export interface Histogram {
  readonly least: number;
  readonly mean: number;
  readonly most: number;
  /** Parents without any. */
  readonly none: number;
  readonly parents: number;
  readonly buckets: readonly { readonly least: number; readonly most: number; readonly parents: number }[];
}

const MOST_BUCKETS = 9;

/**
 * The histogram of a relation's end, from how many parents have how many children. Steps are as wide as each other,
 * but those with none stand alone: they are another question.
 *
 * @param parents all rows of the parent's table
 * @param groups the number of children, and how many parents have just as many; none for those without
 */
export function bucketsOf(
  parents: number,
  groups: readonly { readonly children: number; readonly parents: number }[],
): Histogram {
  const sorted = groups.filter(({ children }) => children > 0).sort((a, b) => a.children - b.children);
  const some = sorted.reduce((sum, group) => sum + group.parents, 0);
  const children = sorted.reduce((sum, group) => sum + group.parents * group.children, 0);
  const most = sorted.at(-1)?.children ?? 0;
  const first = sorted[0]?.children ?? 0;
  const none = Math.max(0, parents - some);
  const width = Math.max(1, Math.ceil((most - first + 1) / MOST_BUCKETS));
  const buckets: { least: number; most: number; parents: number }[] = none > 0 ? [{ least: 0, most: 0, parents: none }] : [];
  for (let least = first; least <= most && least > 0; least += width) {
    const upTo = Math.min(most, least + width - 1);
    const inside = sorted.filter((group) => group.children >= least && group.children <= upTo);
    buckets.push({ least, most: upTo, parents: inside.reduce((sum, group) => sum + group.parents, 0) });
  }
  return { least: none > 0 ? 0 : first, mean: parents === 0 ? 0 : children / parents, most, none, parents, buckets };
}
