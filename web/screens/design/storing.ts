import type { NewRelation } from '../../../core/edits/index.js';
import { snakeCase } from '../../../core/model/index.js';
import type { DesignView } from '../../../core/view-models/index.js';

/** A way to store a relation that is being stated, and what it does to tables and SQL. */
export interface StoringChoice {
  readonly title: string;
  readonly why: string;
  /** Behind `stored in`; null where the convention says it. */
  readonly stored: string | null;
}

/** The ways in which a relation of these sentences can be stored, the one by convention first. */
export function storingChoices(view: DesignView, relation: NewRelation): StoringChoice[] {
  const { subject, target, more, knows, role, back, bothWays } = relation;
  if (bothWays)
    return [
      {
        title: 'a table of pairs',
        why: 'Each pair stands once, the lesser key first, and is read both ways by two index searches.',
        stored: null,
      },
    ];
  if (more.length > 0) return knows === 'many' ? [TYPED_PAIRS] : toSeveral(relation);
  const backKnows = back?.knows ?? 'many';
  if (knows === 'many' && backKnows === 'many') {
    const pairs = `table ${relation.name}`;
    return [
      {
        title: 'a table of pairs',
        why: 'Two foreign keys that are the key together: a pair stands once. Loads go over one more join.',
        // Of one sentence alone it would not be known.
        stored: back === null ? pairs : null,
      },
      {
        title: 'pairs that may repeat',
        why: 'The table has a number of its own, so that the same two may meet again.',
        stored: `${pairs} repeats`,
      },
      ...(back === null ? [keyIn(view, target, subject, `${target}.${keyColumns(view, subject, snakeCase(subject))}`)] : []),
      ...pairEntities(view, subject, target),
    ];
  }
  if (knows === 'many' || backKnows === 'many') {
    const [child, parent] = knows === 'many' ? [target, subject] : [subject, target];
    return [keyIn(view, child, parent, null)];
  }
  const own = `${subject}.${keyColumns(view, target, role)}`;
  const other = `${target}.${keyColumns(view, subject, back?.role ?? snakeCase(subject))}`;
  const alike = knows === backKnows;
  const unique = 'A key column that is unique, so that no two point at the same row.';
  const byRule = knows === 'one' ? own : other;
  const choices = [own, other].map((stored) => ({
    title: `a unique key in ${stored.split('.')[0]}`,
    why: `${unique} The other side finds it by its index.`,
    stored:
      !alike && stored === byRule
        ? null
        : subject === target
          ? `${stored} as ${stored === own ? role : (back?.role ?? '')}`
          : stored,
  }));
  return [
    ...choices.sort((a, b) => Number(a.stored !== null) - Number(b.stored !== null)),
    ...(knows === 'one' && subject !== target ? sharedKey(view, subject, target) : []),
    ...(backKnows === 'one' && subject !== target ? sharedKey(view, target, subject) : []),
  ];
}

function keyIn(view: DesignView, child: string, parent: string, stored: string | null): StoringChoice {
  const inSeveral = view.entities.find(({ name }) => name === parent)?.inSeveralTables === true;
  return {
    title: `a key column in ${child}`,
    why: inSeveral
      ? `Each ${child} holds the key of its ${parent}, with an index. The rows of ${parent} stand in several tables, to which no foreign key can lead, so triggers keep that the row is there.`
      : `Each ${child} holds the key of its ${parent}, with a foreign key and an index. One join either way.`,
    stored,
  };
}

/** The column of a role's key, as it stands behind the entity; of a key of several parts, one for each. */
function keyColumns(view: DesignView, target: string, role: string): string {
  const keyFields = view.entities.find(({ name }) => name === target)?.keyFields ?? [];
  return keyFields.length > 1 ? `(${keyFields.map((part) => `${role}_${part}`).join(', ')})` : `${role}_id`;
}

/** The key of the one is that of the other, where both are one field of one type and nothing else is stored in it. */
function sharedKey(view: DesignView, child: string, parent: string): StoringChoice[] {
  const keyOf = (entity: string) => {
    const found = view.entities.find(({ name, kind }) => name === entity && kind === null);
    const [only, ...more] = found?.keyFields ?? [];
    return more.length > 0 ? undefined : found?.fields.find(({ name }) => name === only);
  };
  const [own, its] = [keyOf(child), keyOf(parent)];
  const stored = view.entities.find(({ name }) => name === child)?.keyColumns ?? {};
  if (own === undefined || its === undefined || own.type !== its.type || own.name in stored) return [];
  return [
    {
      title: `the key of ${child} itself`,
      why: `A ${child} has the very key of its ${parent}: no column more, and one index. Nothing numbers it, and it cannot move to another.`,
      stored: `${child}.${own.name}`,
    },
  ];
}

const TYPED_PAIRS: StoringChoice = {
  title: 'pairs with type and id',
  why: 'A table with a key on one side; on the other a column that says which table, and one that holds the key. Triggers keep that the row is there.',
  stored: null,
};

function toSeveral({ subject, target, more, role }: NewRelation): StoringChoice[] {
  const columns = [target, ...more].map((name) => `${subject}.${snakeCase(name)}_id`);
  return [
    {
      title: 'type and id',
      why: 'One column says which table, one holds the key. A further target costs no column. No foreign key can lead to several tables, so triggers keep that the row is there.',
      stored: null,
    },
    {
      title: 'a key column for each',
      why: 'A real foreign key to each, and a check that no two are filled. A further target is a further column; joins need no type.',
      stored: `one of ${columns.join(', ')}`,
    },
    {
      title: 'type and id, without triggers',
      why: 'As by type and id, and nobody keeps that the row is there. Only where something else does.',
      stored: `${subject}.${role}_type with ${subject}.${role}_id without triggers`,
    },
  ];
}

/** The entities whose rows point at one of each: they can hold the pairs. */
function pairEntities(view: DesignView, subject: string, target: string): StoringChoice[] {
  return view.entities.flatMap(({ name, ends }) => {
    const ones = ends.filter(({ many, columns, path }) => !many && !path && columns.length > 0);
    const near = ones.find((end) => end.target === subject && end.targets.length === 1);
    const far = ones.find((end) => end.target === target && end.targets.length === 1 && end !== near);
    if (near === undefined || far === undefined || name === subject || name === target) return [];
    return [
      {
        title: `the rows of ${name}`,
        why: `Each ${name} is a pair: what it has beside its ${near.name} and its ${far.name} is the pair’s own. No new table.`,
        stored: `${name} (${near.name}, ${far.name})`,
      },
    ];
  });
}
