import type { EntityView } from '../../../core/view-models/index.js';

/** A command to begin with: it makes a row of the first entity, whose first text says that it is new. */
export function exampleCommand(entities: readonly EntityView[]): string {
  const entity = entities.find(({ several }) => !several) ?? entities[0];
  if (entity === undefined) return 'create ';
  const text = entity.fields.find(({ kind, key, derived }) => kind === 'text' && !key && !derived);
  return text === undefined ? `create ${entity.name}` : `create ${entity.name} with ${text.name} 'New'`;
}
