import { entityOf, lineage, type Model, type Order, type Query } from '../model/index.js';
import type { Warning } from './warning.js';

/** The order of a page's rows where it is cut by one that leaves ties; null where none is cut, or none can tie. */
export function looseOrderOf(model: Model, query: Query): readonly Order[] | null {
  const isCut = query.limit !== null || query.offset !== null || query.cardinality === 'first';
  if (!isCut || query.show !== null || query.groupBy !== null) return null;
  const orders = query.orderBy.length > 0 ? query.orderBy : entityOf(model, query.entity).orderBy;
  const fields = orders.flatMap(({ expression }) =>
    expression.kind === 'field' && expression.hops.length === 0 ? [expression.field] : [],
  );
  return orders.length === 0 || isUniqueBy(model, query.entity, fields) ? null : orders;
}

/** Does a row's place follow from these fields: is a key, or a unique whose fields are never empty, among them? */
function isUniqueBy(model: Model, name: string, fields: readonly string[]): boolean {
  return lineage(model, name).some(({ key, uniques, fields: all }) => {
    const required = (member: string) => all.some((field) => field.name === member && field.required);
    const groups = [
      ...uniques.map(({ members }) => members),
      ...all.filter(({ unique }) => unique !== null).map((field) => [field.name]),
    ].filter((members) => members.every(required));
    return [key.fields.map((field) => field.name), ...groups].some((group) => group.every((member) => fields.includes(member)));
  });
}

/** A page is cut where rows can be the same in all that they are ordered by. */
export const looseOrder: Warning = {
  code: 'loose-order',
  find: ({ model, query, tiedAtEdge, text }) => {
    const orders = looseOrderOf(model, query);
    const [first] = orders ?? [];
    if (orders === null || first === undefined || tiedAtEdge === null) return [];
    const key = entityOf(model, query.entity).key.fields.map((field) => field.name);
    const stated = query.orderBy.map(({ expression }) => text.slice(expression.span.start, expression.span.end));
    const by = stated.length > 0 ? stated.join(', ') : `the order of ${query.entity}`;
    const last = query.orderBy.at(-1);
    const line = last === undefined ? -1 : text.indexOf('\n', last.expression.span.end);
    const at = last === undefined ? null : line === -1 ? text.length : line;
    const isPlain = at !== null && /^\s*(desc)?\s*$/.test(text.slice(last?.expression.span.end ?? at, at));
    return [
      {
        weight: tiedAtEdge ? ('warning' as const) : ('note' as const),
        code: looseOrder.code,
        message: `Rows can be the same in ${by}, and the page is cut there. The key is put behind it here, so that no row stands on two pages; SQL of your own needs “, ${key.join(', ')}” too.`,
        evidence: tiedAtEdge
          ? 'The last row of this page, and the one behind it, are the same in it.'
          : 'Here the last row of the page, and the one behind it, differ.',
        span: stated.length > 0 ? first.expression.span : null,
        fix:
          at === null || !isPlain
            ? null
            : {
                of: 'query' as const,
                title: `Order by ${[...stated, ...key].join(', ')}`,
                edits: [{ span: { start: at, end: at }, text: `, ${key.join(', ')}` }],
              },
      },
    ];
  },
};
