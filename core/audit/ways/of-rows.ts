import { nameText } from '../../edits/index.js';
import { byKey, comparedFields, isRow, isValue, orderedFields, type RowSite, type Way } from './way.js';

/** The ways to rows of an entity themselves. */
export const WAYS_OF_ROWS: readonly Way<RowSite>[] = [
  {
    name: 'list',
    queries: ({ entity }) => [
      `from ${nameText(entity.name)}\nlimit 50`,
      `from ${nameText(entity.name)}\norder by ${byKey(entity)}\nlimit 50`,
    ],
  },
  {
    name: 'find by key',
    queries: ({ model, entity, hidden }) => [
      `from ${nameText(entity.name)}\nwhere ${isRow(model, hidden)}`,
      `from ${nameText(entity.name)}\nwhere ${isRow(model, hidden)}\nexists`,
    ],
  },
  {
    name: 'count',
    queries: ({ model, entity, hidden }) => [
      `from ${nameText(entity.name)}\ncount`,
      `from ${nameText(entity.name)}\nwhere ${isRow(model, hidden)}\ncount`,
    ],
  },
  {
    name: 'filter on a field',
    queries: ({ entity, hidden }) =>
      comparedFields(entity)
        .filter((field) => !field.hidden)
        .map((field) => filtered(entity, isValue(field, hidden.values.get(field.name) ?? null))),
  },
  {
    name: 'filter on a field that no answer shows',
    queries: ({ entity, hidden }) =>
      comparedFields(entity)
        .filter((field) => field.hidden)
        .map((field) => filtered(entity, isValue(field, hidden.values.get(field.name) ?? null))),
  },
  {
    name: 'order',
    queries: ({ entity }) =>
      comparedFields(entity).flatMap(({ name }) =>
        ['', ' desc'].map((way) => `from ${nameText(entity.name)}\norder by ${nameText(name)}${way}, ${byKey(entity)}\nlimit 5`),
      ),
  },
  {
    name: 'page',
    queries: ({ entity }) => [`from ${nameText(entity.name)}\norder by ${byKey(entity)}\nlimit 3\noffset 2`],
  },
  {
    name: 'total of a list',
    queries: ({ entity }) => {
      const totals = orderedFields(entity).map(
        ({ name }, at) => `max(${nameText(name)}) as most_${at}, min(${nameText(name)}) as least_${at}`,
      );
      return [`from ${nameText(entity.name)}\nshow ${['count(*) as rows_in_all', ...totals].join(', ')}`];
    },
  },
  {
    name: 'group',
    queries: ({ entity }) =>
      comparedFields(entity)
        .filter(({ type, hidden }) => !hidden && (type.kind === 'boolean' || type.kind === 'choice'))
        .map(
          ({ name }) =>
            `from ${nameText(entity.name)}\ngroup by ${nameText(name)}\nshow ${nameText(name)} as term, count(*) as rows_in_it\norder by term`,
        ),
  },
  {
    name: 'derived field',
    queries: ({ entity }) =>
      entity.derived.map(
        ({ name }) =>
          `from ${nameText(entity.name)}\nshow ${byKey(entity)}, ${nameText(name)} as worked_out\norder by ${byKey(entity)}\nlimit 20`,
      ),
  },
];

function filtered(entity: RowSite['entity'], condition: string): string {
  return `from ${nameText(entity.name)}\nwhere ${condition}\norder by ${byKey(entity)}\nlimit 20`;
}
