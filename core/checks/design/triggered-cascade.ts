import { holdingsOf, isMarked, keyColumnsOf, type Model, type Relation } from '../../model/index.js';
import type { Finding } from '../../notation/index.js';
import type { UnkeptRule } from '../../schema/index.js';
import type { DesignCheck } from '../check.js';

/**
 * What MariaDB refuses when it happens, or does without telling anybody: a trigger that changes the table whose statement
 * fired it (its error 1442), and rows that a foreign key's rule takes along or changes, on which no trigger fires.
 */
export const triggeredCascade: DesignCheck = {
  code: 'triggered-cascade',
  find(model, { title }, _syntax, { unkept }) {
    const told = new Set<string>();
    return unkept.flatMap((rule): Finding[] => {
      const relation = relationOf(model, rule);
      const key = `${relation?.name ?? rule.table} ${rule.event}`;
      if (told.has(key)) return [];
      told.add(key);
      const why = whyUnkept(rule, title);
      if (relation === undefined) return ofKind(model, rule, why);
      const { origin } = rule.event === 'delete' ? relation.onDelete : relation.onUpdate;
      const stated = origin.kind === 'stated';
      const refuse = `on ${rule.event} restrict`;
      const typed = relation.kind === 'polymorphic' && isMarked(relation);
      const other = typed ? ', or store one key column for each target, as in “stored in one of …”' : '';
      return [
        {
          weight: stated ? 'error' : 'note',
          code: triggeredCascade.code,
          message: `relation ${relation.name}: ${why}. There it is refused${stated ? '' : ', and nothing is lost'}. Write “${refuse}”${other}.`,
          span: stated ? origin.span : relation.head,
          fixes: stated ? [{ title: 'Let it refuse', edits: [{ span: origin.span, text: refuse }] }] : [],
        },
      ];
    });
  },
};

/** Kinds in joined tables follow their base: a key that then stays as it is harms nobody, rows that cannot go do. */
function ofKind({ entities }: Model, { event, table }: UnkeptRule, why: string): Finding[] {
  const kind = Array.from(entities.values()).find((entity) => entity.table.value.name === table);
  if (event === 'update' || kind === undefined) return [];
  return [
    {
      weight: 'warning',
      code: triggeredCascade.code,
      message: `${kind.name}: ${why}. There no row of it can be deleted. Let one of the relations between them refuse, as with “on delete restrict”.`,
      span: kind.head,
      fixes: [],
    },
  ];
}

function whyUnkept({ event, table, parent }: UnkeptRule, title: string): string {
  if (event === 'update')
    return `triggers keep what points at the key of ${table}, and ${title} fires none where a foreign key changes it`;
  const way = table === parent ? `goes on in ${parent}` : `goes on to ${table} and comes back to ${parent}`;
  return `a delete in ${parent} ${way}, and ${title} lets no trigger change a table that is being changed already`;
}

/** The relation that stores its keys in these columns; none where kinds follow their base. */
function relationOf(model: Model, { table, columns }: UnkeptRule): Relation | undefined {
  return Array.from(model.relations.values()).find((relation) =>
    keyColumnsOf(relation).some(
      (store) => store.join() === columns.join() && tablesOf(model, relation).some((name) => name === table),
    ),
  );
}

function tablesOf(model: Model, relation: Relation): string[] {
  const { pairs, holder } = holdingsOf(relation);
  if (pairs !== null) return [pairs.name];
  if (holder === null) return [];
  const kinds = model.entities.get(holder)?.kinds?.concrete.map(({ entity }) => entity) ?? [];
  return [holder, ...kinds].flatMap((name) => model.entities.get(name)?.table.value.name ?? []);
}
