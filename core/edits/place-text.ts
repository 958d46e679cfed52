import { type Entry, linkText, type RowName, updateText } from './command-text.js';

/** A row that stands at a place among others, by a number of its own or of the pair that leads to it. */
export interface Placed {
  readonly row: RowName;
  readonly place: number;
  /** Of a pair: all its fields, the number among them. */
  readonly fields: readonly Entry[];
}

/** Where the numbers stand that rows have an order by. */
export type PlaceOf =
  | { readonly kind: 'row'; readonly field: string }
  | { readonly kind: 'pair'; readonly field: string; readonly owner: RowName; readonly role: string };

/**
 * The commands that give two rows each the other's place. Pairs are taken apart and made anew, so that no place is taken twice in
 * between.
 *
 * @param free where no two rows may have the same place: one that none has, by way of which the first goes; else null
 */
export function exchangeText(of: PlaceOf, one: Placed, other: Placed, free: number | null): string {
  if (of.kind === 'pair') {
    const { owner, role, field } = of;
    return [
      linkText('unlink', owner, role, [one.row, other.row]),
      linkText('link', owner, role, [one.row], placedAt(one.fields, field, other.place)),
      linkText('link', owner, role, [other.row], placedAt(other.fields, field, one.place)),
    ].join('\n');
  }
  const to = ({ row }: Placed, place: number) => updateText(row, [entryOf(of.field, place)]);
  const aside = free === null ? [] : [to(one, free)];
  return [...aside, to(other, one.place), to(one, other.place)].join('\n');
}

function placedAt(fields: readonly Entry[], field: string, place: number): readonly Entry[] {
  return fields.map((entry) => (entry.name === field ? entryOf(field, place) : entry));
}

function entryOf(name: string, place: number): Entry {
  return { name, entered: { kind: 'value', type: { kind: 'integer' }, text: String(place) } };
}
