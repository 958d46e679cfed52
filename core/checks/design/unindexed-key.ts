import { sqlName, sqlTokens } from '../../sql/index.js';
import type { DesignCheck } from '../check.js';

/** A key column that no index begins with: each delete of a parent, and each load of children, reads the whole table. */
export const unindexedKey: DesignCheck = {
  code: 'unindexed-key',
  find: (model) => {
    // Elsewhere the tool makes an index for each.
    if (!model.physical.asStated) return [];
    return Array.from(model.relations.values()).flatMap((relation) => {
      if (relation.kind !== 'key') return [];
      const child = model.entities.get(relation.child);
      const columns = relation.columns.map(({ value }) => value);
      if (child === undefined || child.given) return [];
      const led = [
        child.key.columns,
        ...child.uniques.map((unique) => unique.columns),
        ...child.indexes.map((index) => index.columns),
        ...child.fields.filter(({ unique }) => unique !== null).map(({ column }) => [column.value]),
        ...(relation.form === 'one-to-one' ? [columns] : []),
      ].some((group) => columns.every((column) => group.slice(0, columns.length).includes(column)));
      const kept = child.kept.some(({ sql }) => firstIndexed(sql)?.toLowerCase() === columns[0]?.toLowerCase());
      if (led || kept) return [];
      const at = child.head.end;
      const member = relation.childRole ?? columns.join(', ');
      return [
        {
          weight: 'warning' as const,
          code: unindexedKey.code,
          message: `${relation.child}.${member}: no index begins with ${columns.join(', ')}, so each load over it, and each delete of a row of ${relation.parent}, reads all of ${child.table.value.name}. Add “index (${member})”.`,
          span: relation.head,
          fixes: [{ title: `Add index (${member})`, edits: [{ span: { start: at, end: at }, text: `\n  index (${member})` }] }],
        },
      ];
    });
  },
};

/** The column that an index begins with, of the statement that makes it; null for another statement, or an expression. */
function firstIndexed(sql: string): string | null {
  const tokens = sqlTokens(sql);
  const opens = tokens.findIndex(({ text }) => text === '(');
  const first = tokens[opens + 1];
  const makes = tokens.slice(0, Math.max(0, opens)).some(({ kind, text }) => kind === 'word' && text.toLowerCase() === 'index');
  if (!makes || first === undefined || tokens[opens + 2]?.text === '(') return null;
  return first.kind === 'word' || first.kind === 'quoted' ? sqlName(first) : null;
}
