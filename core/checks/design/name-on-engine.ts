import { entityOf, hasTable, holdingsOf, isPivot, type Model, type Relation, storedColumnsOf } from '../../model/index.js';
import type { Span } from '../../notation/index.js';
import type { DesignCheck } from '../check.js';

/** The length of a name as an engine counts it. */
function lengthOn(name: string, unit: 'bytes' | 'characters'): number {
  return unit === 'bytes' ? new TextEncoder().encode(name).length : Array.from(name).length;
}

/** Names of tables and columns that are too long for an engine, or words of its SQL. */
export const nameOnEngine: DesignCheck = {
  code: 'name-on-engine',
  find(model, dialect) {
    const findings: ReturnType<DesignCheck['find']> = [];
    const look = (name: string, what: string, span: Span) => {
      // No letter takes less than one of what is counted, nor more than three: most names need no counting.
      const { most, unit } = dialect.powers.longestName;
      const length = name.length * 3 <= most ? 0 : lengthOn(name, unit);
      if (length > most)
        findings.push({
          weight: 'error',
          code: nameOnEngine.code,
          message: `${what}: ${name} has ${length} ${unit}, and ${dialect.title} takes ${most}. Give it a shorter one.`,
          span,
          fixes: [],
        });
      else if (!model.physical.asStated && dialect.quote(name) !== name && /^[a-z_][a-z0-9_]*$/.test(name))
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
    for (const { kinds, given, head, name } of model.entities.values())
      if (kinds?.base === null && !given && kinds.storage.kind !== 'separate tables')
        look(kinds.storage.mark, `the mark of ${name}`, head);
    for (const relation of model.relations.values()) {
      const what = `relation ${relation.name}`;
      for (const name of columnsOf(model, relation)) look(name, what, relation.head);
      if (isPivot(relation) && relation.entity === null && !relation.given) {
        look(relation.table.value.name, what, relation.head);
        for (const field of relation.fields) look(field.column.value, `${what}.${field.name}`, field.span);
      }
    }
    return findings;
  },
};

/** The columns that a relation puts into tables which are made here. */
function columnsOf(model: Model, relation: Relation): readonly string[] {
  const { holder, pairs } = holdingsOf(relation);
  const given = isPivot(relation)
    ? relation.given || holder !== null
    : holder !== null && pairs === null && entityOf(model, holder).given;
  return given ? [] : storedColumnsOf(relation).flatMap(({ value, declared }) => (declared ? [] : [value]));
}
