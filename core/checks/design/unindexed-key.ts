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
      const kept = child.kept.some(({ sql }) => new RegExp(`index[\\s\\S]*\\(\\s*["\`]?${columns[0] ?? ''}\\b`, 'i').test(sql));
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
