import type { Design } from '../core/design/index.js';
import type { Entity, Field } from '../core/model/index.js';
import { type Aggregate, aggregateType } from '../core/values/index.js';

const AGGREGATES: readonly Aggregate[] = ['sum', 'avg', 'min', 'max'];

/** How many of each sort are asked, so that an entity of many fields does not take all the time. */
const FEW = 3;

/** Flat queries over an entity: what is shown of rows, of distinct ones, of groups, of all; and aggregates of related rows. */
export function shownQueries({ model }: Design, entity: Entity): string[] {
  const from = `from ${entity.name}\n`;
  const fields = comparable(entity).slice(0, FEW);
  const toOne = entity.roles.filter(({ knows }) => knows !== 'many').slice(0, FEW);
  const toMany = [...entity.roles, ...entity.paths].filter(({ knows }) => knows === 'many').slice(0, FEW);
  const behind = toOne.flatMap(({ name, target }) => {
    const [field] = comparable(model.entities.get(target));
    return field === undefined ? [] : [{ path: `${name}.${quoted(field.name)}`, role: name, field }];
  });
  const rows = toOne.flatMap(({ name, target }) => {
    const kin = model.entities.get(target);
    const [part, ...others] = kin?.key.fields ?? [];
    const isPlain = part?.type.kind === 'integer' && isName(part.name) && kin?.fields.includes(part) === true;
    if (part === undefined || others.length > 0 || !isPlain) return [];
    const row = (key: number) => `${target}[${part.name} = ${key}]`;
    return [`${name} = ${row(2)}`, `${name} <> ${row(2)}`, `${name} not in (${row(1)}, ${row(3)})`];
  });
  const shown = [
    ...fields.map(({ name }) => quoted(name)),
    ...toOne.map(({ name }) => `${name} as of_${name}`),
    ...behind.map(({ path }, index) => `${path} as behind_${index}`),
  ];
  const terms = [...fields.map(({ name }) => quoted(name)), ...toOne.map(({ name }) => name), ...behind.map(({ path }) => path)];
  const sums = aggregates(fields, '');
  const parts = ['count(*) as n', ...sums].join(', ');
  return [
    ...(shown.length === 0 ? [] : [`${from}show ${shown.join(', ')}`, `${from}exists`]),
    ...rows.map((condition) => `${from}where ${condition}`),
    ...behind.map(({ role, field }, index) => {
      const name = quoted(field.name);
      const holds = index % 2 === 0 ? `${name} = ${name}` : `${name} is null`;
      return `${from}show ${role}[${holds}].${name} as found\norder by found desc`;
    }),
    ...behind.slice(0, 1).map(({ role, field }) => {
      const name = quoted(field.name);
      return `${from}where ${role}[${name} is not null].${name} is null`;
    }),
    `${from}show ${parts}`,
    ...terms.map((term, index) => `${from}show distinct ${term} as term${index % 2 === 0 ? `\norder by term desc` : ''}`),
    ...terms.map(
      (term) => `${from}group by ${term}\nshow ${term} as term, ${parts}\nhaving n > 1 or term is null\norder by n desc`,
    ),
    ...(terms.length < 2 ? [] : [`${from}group by ${terms.slice(0, 2).join(', ')}\nshow count(*) as n\norder by n`]),
    ...terms
      .slice(0, 1)
      .map((term) => `${from}group by ${term} is null\nshow ${term} is null as missing, ${parts}\nlimit 1\noffset 1`),
    ...toMany.flatMap(({ name, target }) => {
      const kin = model.entities.get(target);
      const over = aggregates(comparable(kin).slice(0, FEW), `${name}.`);
      const deeper = (kin?.roles ?? []).slice(0, 2).flatMap((role) => {
        return aggregates(comparable(model.entities.get(role.target)).slice(0, 2), `${name}.${role.name}.`);
      });
      const all = [...over, ...deeper.slice(0, 6)];
      return [
        ...(all.length === 0 ? [] : [`${from}show count(${name}) as n, ${all.join(', ')}\norder by n desc`]),
        ...over.slice(0, 1).map((one) => `${from}where ${one} is not null`),
        `${from}show sum(count(${name})) as all_of_them, max(count(${name})) as most`,
        `${from}group by count(${name})\nshow count(${name}) as kin, count(*) as n`,
      ];
    }),
  ];
}

function aggregates(fields: readonly Field[], before: string): string[] {
  return fields.flatMap(({ name, type }) =>
    AGGREGATES.filter((aggregate) => aggregateType(aggregate, type) !== null).map(
      (aggregate) => `${aggregate}(${before}${quoted(name)})`,
    ),
  );
}

/** The fields that rows can be grouped by: numbers first, so that there is something to sum. */
function comparable(entity: Entity | undefined): Field[] {
  const fields = (entity?.fields ?? []).filter(
    ({ type }) => type.kind !== 'json' && type.kind !== 'bytes' && type.kind !== 'sql',
  );
  const isNumber = ({ type }: Field) => aggregateType('sum', type) !== null;
  return [...fields.filter(isNumber), ...fields.filter((field) => !isNumber(field)).reverse()];
}

function isName(name: string): boolean {
  return /^[a-z_]\w*$/.test(name);
}

function quoted(name: string): string {
  return isName(name) ? name : `"${name}"`;
}

/** How many loads are joined to the same rows at most: what they multiply to is found out, and takes its time. */
const MOST_JOINED = 5;

/** Whether the loads of a query, all joined, multiply beyond what a test waits for. */
export function multiplies(query: string): boolean {
  return (query.match(/^load /gm) ?? []).length > MOST_JOINED;
}

const WAYS = ['batch', 'join', 'json', 'row'] as const;

/** A query in which each load states a way of its own, in turn from one of them on. */
export function mixedWays(query: string, from: number): string {
  let at = from;
  return query
    .split('\n')
    .map((line) => (/^(?:load | {2}\S)/.test(line) ? `${line} by ${WAYS[at++ % WAYS.length]}` : line))
    .join('\n');
}
