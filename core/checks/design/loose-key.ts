import { singular, snakeCase } from '../../model/index.js';
import { nearest } from '../../notation/index.js';
import type { DesignCheck } from '../check.js';

/** A field that is named like a key of another entity, and is no relation's: nothing keeps what it points at. */
export const looseKey: DesignCheck = {
  code: 'loose-key',
  find(model) {
    const byName = new Map(Array.from(model.entities.keys(), (name) => [snakeCase(name), name]));
    return Array.from(model.entities.values()).flatMap((entity) => {
      const stored = new Set(entity.roles.flatMap((role) => (role.way.kind === 'key' ? role.way.columns : [])));
      return entity.fields.flatMap((field) => {
        const stem = /^(.+)_id$/.exec(field.name)?.[1];
        if (stem === undefined || field.key || stored.has(field.column.value)) return [];
        const target = byName.get(stem) ?? byName.get(singular(stem)) ?? byName.get(nearest(stem, byName.keys()) ?? '');
        if (target === undefined) return [];
        return [
          {
            weight: 'warning' as const,
            code: looseKey.code,
            message: `${entity.name}.${field.name} looks like a key of ${target}, but no relation says so: nothing keeps that its ${target} is there. State one with “stored in ${entity.name}.${field.column.value}”.`,
            span: field.span,
            fixes: [],
          },
        ];
      });
    });
  },
};
