import type { Command, CommandRows, NewRow, WrittenValue } from './command.js';
import type { Expression } from './expression.js';
import type { Load, Query } from './model.js';

/** Every expression that a query asks for, its loads included. */
export function expressionsOfQuery({ where, show, groupBy, having, orderBy, limit, offset, loads }: Query): Expression[] {
  return [
    ...where,
    ...(show ?? []).map(({ expression }) => expression),
    ...(groupBy ?? []),
    ...orderBy.map(({ expression }) => expression),
    ...[having, limit, offset].filter((one) => one !== null),
    ...loads.flatMap(inLoad),
  ];
}

function inLoad({ where, orderBy, limit, loads }: Load): Expression[] {
  const own = [where, limit].filter((one) => one !== null);
  return [...own, ...orderBy.map(({ expression }) => expression), ...loads.flatMap(inLoad)];
}

/** Every expression by which a command finds rows, or gives them values. */
export function expressionsOfCommand(command: Command): Expression[] {
  switch (command.kind) {
    case 'create':
      return [...ofNew(command.row), ...ofRows(command.through?.owner ?? null)];
    case 'find or create':
    case 'create or update':
      return [
        ...command.match.flatMap(ofValue),
        ...ofNew(command.row),
        ...ofRows(command.through?.owner ?? null),
        command.condition,
      ];
    case 'update':
      return [...ofRows(command.rows), ...command.values.flatMap(ofValue)];
    case 'link':
    case 'unlink':
      return [
        ...ofRows(command.owner),
        ...command.others.flatMap(({ rows }) => ofRows(rows)),
        ...command.fields.flatMap(ofValue),
        ...(command.pairs === null ? [] : [command.pairs]),
      ];
    case 'delete':
      return ofRows(command.rows);
  }
}

function ofRows(rows: CommandRows | null): Expression[] {
  if (rows === null) return [];
  return [...(rows.row === null ? [] : [rows.row]), ...expressionsOfQuery(rows.query)];
}

function ofNew({ values, children }: NewRow): Expression[] {
  return [...values.flatMap(ofValue), ...children.flatMap(({ rows }) => rows.flatMap(ofNew))];
}

function ofValue(value: WrittenValue): Expression[] {
  return value.kind === 'field' ? [value.expression] : ofRows(value.rows);
}
