import fc from 'fast-check';
import { type Design, readDesign } from '../core/design/index.js';
import type { Entity } from '../core/model/index.js';
import { makeSamples } from '../core/samples/index.js';
import { joinKey, type Wire } from '../core/values/index.js';
import { everything } from './agreement.js';
import type { WorkingAs } from './naive-answers.js';

const NOW = '2031-04-12T09:00:00.000000Z';

const UNORDERED: ReadonlySet<string> = new Set(['json', 'bytes', 'real']);

/** What can be asked of an entity's rows: what queries ask of them, and what belongs to whoever is at work. */
function conditionsOn(design: Design, { name, roles, fields }: Entity, actor: Entity): string[] {
  const asked = everything({ design }).flatMap((query) => {
    const [from, condition, ...more] = query.split('\nwhere ');
    const isPlain = from === `from ${name}` && condition !== undefined && more.length === 0 && !condition.includes('\n');
    return isPlain ? [condition] : [];
  });
  const ones = roles.filter(({ knows, way }) => knows !== 'many' && way.kind !== 'path');
  const own = actor.roles.filter(({ knows, way }) => knows !== 'many' && way.kind !== 'path');
  return [
    ...asked,
    ...ones.flatMap((role) => [
      ...(role.target === actor.name ? [`${role.name} = me`] : []),
      ...own.flatMap((mine) => (mine.target === role.target ? [`${role.name} = me.${mine.name}`] : [])),
    ]),
    ...fields.flatMap((field) =>
      actor.fields.flatMap((mine) =>
        /^[a-z_]\w*$/.test(field.name) &&
        field.type.kind === mine.type.kind &&
        field.name === mine.name &&
        !UNORDERED.has(field.type.kind)
          ? [`${field.name} >= me.${mine.name}`]
          : [],
      ),
    ),
  ];
}

/** A wall that is drawn for a text: on which entity, with which of the conditions on it, and whether it frees anybody. */
export interface DrawnWall {
  readonly at: number;
  readonly what: number;
  readonly frees: boolean;
}

/** A text with walls, and whoever is at work there. */
export interface WalledText {
  readonly text: string;
  readonly actors: readonly WorkingAs[];
}

/**
 * A text with the walls that were drawn for it, and who is at work: nobody, and two of its rows; null where no row can be.
 *
 * @param on what the walls keep rows from, one after the other
 */
export function walledText(
  text: string,
  draws: readonly DrawnWall[],
  who: number,
  on: readonly string[] = [' on read'],
): WalledText | null {
  const plain = readDesign(text);
  const samples = makeSamples(plain.model, plain.model.clock ?? NOW);
  const entities = Array.from(plain.model.entities.values());
  const actors = entities.filter(({ name, kinds }) => kinds === null && (samples.rows.get(name)?.length ?? 0) > 0);
  const actor = actors[who % Math.max(1, actors.length)];
  if (actor === undefined) return null;
  const headed = text.replace('\n', `\n  actor ${actor.name}\n`);
  const walls = draws.flatMap(({ at, what, frees }, number) => {
    const entity = entities[at % entities.length];
    const conditions = entity === undefined ? [] : conditionsOn(plain, entity, actor);
    const condition = conditions[what % Math.max(1, conditions.length)];
    if (condition === undefined) return [];
    const unless = frees ? `  unless me.${actor.key.fields[0]?.name} is null\n` : '';
    return [`\nwall wall_${number}${on[number % on.length]}\n  ${entity?.name} where ${condition}\n${unless}`];
  });
  const rows = samples.rows.get(actor.name) ?? [];
  const key = (at: number) =>
    joinKey(
      actor.key.type,
      actor.key.fields.map((field) => (rows[at % rows.length]?.get(field.column.value) ?? null) as Wire),
    );
  const type = { kind: 'row' as const, entity: actor.name };
  const somebody = (value: Wire): WorkingAs => ({
    named: { kind: 'row', row: { kind: 'value', value, type, span: { start: 0, end: 0 } } },
    seen: { key: value },
  });
  return {
    text: `${headed}${walls.join('')}`,
    actors: [{ named: { kind: 'nobody' }, seen: 'nobody' }, somebody(key(who)), somebody(key(who + 1))],
  };
}

/** Draws walls. */
export const drawnWalls: fc.Arbitrary<DrawnWall[]> = fc.array(fc.record({ at: fc.nat(), what: fc.nat(), frees: fc.boolean() }), {
  minLength: 2,
  maxLength: 5,
});
