const PIVOT = 'pivot ';
const KNOT = 'knot ';

/** The identifier of the lozenge of a pivot on the map; an entity's label is called by its name alone. */
export function pivotLabel(relation: string): string {
  return `${PIVOT}${relation}`;
}

/** The identifier of the knot in which the stems of a relation from several entities meet. */
export function knotLabel(relation: string): string {
  return `${KNOT}${relation}`;
}

/** Whether a label is the knot of a role to several entities. */
export function isKnot(label: string): boolean {
  return label.startsWith(KNOT);
}

/** The relation whose lozenge or knot a label is; null for that of an entity. */
export function relationOfLabel(label: string): string | null {
  if (label.startsWith(PIVOT)) return label.slice(PIVOT.length);
  return isKnot(label) ? label.slice(KNOT.length) : null;
}
