import { type Entity, type Expression, entityOf, fieldOf, type Model, tableEntity } from '../../model/index.js';
import type { Table } from '../../schema/index.js';
import { placeOf } from '../../sql/index.js';
import type { DesignCheck } from '../check.js';

/** A line of a wall that no index serves: whoever reads rows of the entity has all of them looked at, each time. */
export const unindexedWall: DesignCheck = {
  code: 'unindexed-wall',
  find: (model, _dialect, _syntax, { schema }) => {
    const tables = new Map(schema.tables.map((table) => [placeOf(table.name), table]));
    const told = new Set<string>();
    return Array.from(model.walls.values()).flatMap(({ name, reads, conditions }) =>
      Array.from(conditions).flatMap(([of, lines]) =>
        lines.flatMap(({ kinds, holds }) => {
          const entity = entityOf(model, of);
          const place = `${holds.span.start}`;
          if (!reads || kinds !== null || entity.given || told.has(place)) return [];
          const asked = conjunctsOf(holds).flatMap((one) => askedOf(model, entity, one));
          if (asked.length === 0 || asked.some(({ table, columns }) => isLed(tables.get(table), columns))) return [];
          const [first] = asked;
          if (first === undefined) return [];
          told.add(place);
          const at = entity.head.end;
          return [
            {
              weight: 'note' as const,
              code: unindexedWall.code,
              message: `wall ${name} of ${of}: no index begins with ${first.member}, so whoever reads rows of ${of} has all of them looked at. Add “index (${first.member})”.`,
              span: holds.span,
              fixes: [
                {
                  title: `Add index (${first.member})`,
                  edits: [{ span: { start: at, end: at }, text: `\n  index (${first.member})` }],
                },
              ],
            },
          ];
        }),
      ),
    );
  },
};

/** What a condition asks of columns of the entity's own table, so that an index could serve it. */
interface AskedOf {
  readonly member: string;
  readonly table: string;
  readonly columns: readonly string[];
}

/** The conditions that are joined with `and`, each for itself. */
function conjunctsOf(condition: Expression): readonly Expression[] {
  if (condition.kind !== 'binary' || condition.operator !== 'and') return [condition];
  return [...conjunctsOf(condition.left), ...conjunctsOf(condition.right)];
}

function askedOf(model: Model, entity: Entity, condition: Expression): readonly AskedOf[] {
  return comparedIn(condition).flatMap((part): AskedOf[] => {
    if (part.kind === 'field' && part.hops.length === 0) {
      const { name, column, owner } = fieldOf(entity.fields, part.field);
      return [{ member: name, table: tableOf(model, entity, owner), columns: [column.value] }];
    }
    const hop = part.kind === 'field' || part.kind === 'role' ? part.hops[0] : undefined;
    if (hop?.way.kind !== 'key') return [];
    return [{ member: hop.name, table: tableOf(model, entity, hop.entity), columns: hop.way.columns }];
  });
}

function tableOf(model: Model, entity: Entity, owner: string): string {
  return placeOf(entityOf(model, tableEntity(model, entity.name, owner)).table.value);
}

/** The sides of a comparison that an index can find: it asks for a value, or for a stretch of them. */
function comparedIn(condition: Expression): readonly Expression[] {
  switch (condition.kind) {
    case 'binary':
      return ['=', '<', '<=', '>', '>='].includes(condition.operator) ? [condition.left, condition.right] : [];
    case 'in':
    case 'between':
      return condition.negated ? [] : [condition.operand];
    default:
      return [];
  }
}

/** Whether a key or an index of a table begins with these columns. */
function isLed(table: Table | undefined, columns: readonly string[]): boolean {
  if (table === undefined) return true;
  const groups = [
    table.primaryKey.columns,
    ...table.uniques.map((unique) => unique.columns),
    ...table.indexes.map((index) => index.columns),
  ];
  return groups.some((group) => columns.every((column) => group.slice(0, columns.length).includes(column)));
}
