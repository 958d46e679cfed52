import { type Entity, entityOf, type Field, type Model, singular, snakeCase } from '../../model/index.js';
import { type Fix, nearest } from '../../notation/index.js';
import type { DesignCheck } from '../check.js';

/** A field that is named like a key of another entity, and is no relation's: nothing keeps what it points at. */
export const looseKey: DesignCheck = {
  code: 'loose-key',
  find(model) {
    const byName = new Map(Array.from(model.entities.keys(), (name) => [snakeCase(name), name]));
    return Array.from(model.entities.values()).flatMap((entity) => {
      if (!entity.fields.some(({ name }) => name.endsWith('_id'))) return [];
      const stored = new Set(entity.roles.flatMap((role) => (role.way.kind === 'key' ? role.way.columns : [])));
      return entity.fields.flatMap((field) => {
        const stem = field.name.endsWith('_id') ? field.name.slice(0, -'_id'.length) : '';
        if (stem === '' || field.key || stored.has(field.column.value)) return [];
        const target = byName.get(stem) ?? byName.get(singular(stem)) ?? byName.get(nearest(stem, byName.keys()) ?? '');
        if (target === undefined) return [];
        return [
          {
            weight: 'warning' as const,
            code: looseKey.code,
            message: `${entity.name}.${field.name} looks like a key of ${target}, but no relation says so: nothing keeps that its ${target} is there. State one with “stored in ${entity.name}.${field.column.value}”.`,
            span: field.span,
            fixes: relating(model, entity, field, stem, target),
          },
        ];
      });
    });
  },
};

/** The relation that the field's name speaks of, where its type is that of the other's key and the role is free. */
function relating(model: Model, entity: Entity, field: Field, stem: string, target: string): Fix[] {
  const { key } = entityOf(model, target);
  const taken = [...entity.fields, ...entity.derived, ...entity.roles, ...entity.polymorphic, ...entity.paths];
  const name = `${snakeCase(entity.name)}_${stem}`;
  if (key.type.kind !== field.type.kind || key.fields.length > 1) return [];
  if (taken.some((one) => one.name === stem) || model.relations.has(name)) return [];
  const sentence = `${entity.name} knows ${field.required ? 'one' : 'at most one'} ${target} as ${stem}`;
  const text = `\n\nrelation ${name}\n  ${sentence}\n  stored in ${entity.name}.${field.column.value}`;
  const at = entity.span.end;
  return [{ title: `Relate it to ${target}`, edits: [{ span: { start: at, end: at }, text }] }];
}
