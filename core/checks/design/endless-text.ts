import type { DesignCheck } from '../check.js';
import { afterType } from '../places.js';

/** A text without a length that is a key, is unique or has an index, where the engine indexes a part of it alone. */
export const endlessText: DesignCheck = {
  code: 'endless-text',
  find: (model, dialect, syntax) =>
    Array.from(dialect.powers.indexesText === 'its beginning' ? model.entities.values() : []).flatMap((entity) => {
      const groups = [...entity.uniques, ...entity.indexes].flatMap(({ columns }) => columns);
      return entity.fields
        .filter(({ owner, type }) => owner === entity.name && type.kind === 'text' && type.length === null)
        .filter(
          ({ key, unique, column, physical }) =>
            physical.declaration === null && (key || unique !== null || groups.includes(column.value)),
        )
        .map((field) => {
          const end = afterType(syntax, field.span);
          const what = field.key ? 'is the key' : field.unique === null ? 'has an index' : 'is unique';
          return {
            weight: model.physical.asStated ? ('note' as const) : ('warning' as const),
            code: endlessText.code,
            message: `${entity.name}.${field.name} ${what}, and is a text without a length: ${dialect.title} indexes no more than the beginning of it. Give it a length, as text(190).`,
            span: field.span,
            fixes: end === null ? [] : [{ title: 'Make it text(190)', edits: [{ span: { start: end, end }, text: '(190)' }] }],
          };
        });
    }),
};
