import { entityOf, hasTable } from '../../model/index.js';
import type { Span } from '../../notation/index.js';
import type { DesignCheck } from '../check.js';

/** Longer names are cut, or refused (PostgreSQL, 4.1.1: 63 bytes; MariaDB, “Identifier Names”: 64 characters). */
const LONGEST = { sqlite: Number.POSITIVE_INFINITY, postgres: 63, mariadb: 64 } as const;

/** Names of tables and columns that are too long for an engine, or words of its SQL. */
export const nameOnEngine: DesignCheck = {
  code: 'name-on-engine',
  find(model, dialect) {
    const findings: ReturnType<DesignCheck['find']> = [];
    const look = (name: string, what: string, span: Span) => {
      const bytes = new TextEncoder().encode(name).length;
      if (bytes > LONGEST[dialect.name])
        findings.push({
          weight: 'error',
          code: nameOnEngine.code,
          message: `${what}: ${name} has ${bytes} bytes, and ${dialect.title} takes ${LONGEST[dialect.name]}. Give it a shorter one.`,
          span,
          fixes: [],
        });
      else if (/^[a-z_][a-z0-9_]*$/.test(name) && dialect.quote(name) !== name && !model.physical.asStated)
        findings.push({
          weight: 'note',
          code: nameOnEngine.code,
          message: `${what}: ${name} is a word of ${dialect.title}’s SQL, so everybody who writes a statement by hand has to quote it. The tool does.`,
          span,
          fixes: [],
        });
    };
    for (const entity of model.entities.values()) {
      if (entity.given || !hasTable(entity)) continue;
      look(entity.table.value.name, `table of ${entity.name}`, entity.head);
    }
    for (const entity of model.entities.values()) {
      if (entity.given) continue;
      for (const field of entity.fields)
        if (field.owner === entity.name) look(field.column.value, `${entity.name}.${field.name}`, field.span);
    }
    for (const relation of model.relations.values()) {
      if (relation.kind === 'key' && !entityOf(model, relation.child).given)
        for (const { value, declared } of relation.columns)
          if (!declared) look(value, `relation ${relation.name}`, relation.head);
      if ((relation.kind === 'pivot' || relation.kind === 'polymorphic pivot') && relation.entity === null && !relation.given)
        look(relation.table.value.name, `relation ${relation.name}`, relation.head);
    }
    return findings;
  },
};
