import { isPolymorphic } from '../../model/index.js';
import type { DesignCheck } from '../check.js';

/** Triggers that fire as they are meant to only where each connection that writes asks for it. */
export const sessionSettings: DesignCheck = {
  code: 'session-settings',
  find(model, dialect, _syntax, made) {
    const relations = Array.from(model.relations.values());
    const relation =
      relations.find(isPolymorphic) ??
      relations.find((one) => one.kind === 'key' && (model.entities.get(one.parent)?.kinds ?? null) !== null);
    const tables = made.schema.tables.filter(({ triggers }) =>
      triggers.some((one) => one.kind === 'made' && one.trigger.event === 'delete'),
    );
    if (!dialect.triggersRestOnSession || model.physical.asStated || relation === undefined || tables.length === 0) return [];
    const names = tables.map(({ name }) => name.name);
    return [
      {
        weight: 'note',
        code: sessionSettings.code,
        message: `relation ${relation.name}: its triggers rest on each connection. ${dialect.title} fires none for what “replace into” removes (here from ${listed(names)}) without “pragma recursive_triggers = on”, and keeps no key without “pragma foreign_keys = on”. A script says both at its head; say them in each program that writes.`,
        span: relation.head,
        fixes: [],
      },
    ];
  },
};

function listed(names: readonly string[]): string {
  return names.length > 3 ? `${names.slice(0, 3).join(', ')} and ${names.length - 3} more` : names.join(', ');
}
