import {
  type Command,
  type Entity,
  type Expression,
  entityOf,
  lineage,
  type Model,
  type NamedCommand,
  type NewRow,
  operandsOf,
  queryOf,
  rolesWalked,
  type WrittenValue,
} from '../model/index.js';
import type { Wire } from '../values/index.js';
import { SYSTEM } from '../walls/index.js';
import { type Doing, Refused } from './doing.js';
import { keyIn } from './row-at.js';
import type { CommandWork } from './steps.js';

/** A rule that reads other rows than its own, and the entity that states it. */
interface WideRule {
  readonly entity: Entity;
  readonly rule: Entity['rules'][number];
}

/** What commands do to rows of one entity: the fields and roles that they change, or that rows come; or to any, as a delete does. */
export interface Touch {
  readonly entity: string;
  readonly names: readonly string[] | 'rows' | 'all that is reached';
  /** The last command that does so. */
  readonly line: number;
}

/** Of a rule that more rows than this break already nobody can tell who breaks it anew; it is not looked at. */
const MOST_BROKEN = 5000;

/**
 * The rules of rows that commands do not write, but that read what they write: no constraint holds those, and what broke them before
 * is let be. The rows that break one are looked for before the first command and after the last.
 */
export class RulesOfOthers {
  private readonly watched: { readonly wide: WideRule; readonly line: number; before: ReadonlySet<string> | null }[];

  constructor(
    private readonly doing: Doing,
    touches: readonly Touch[],
  ) {
    this.watched = wideRules(doing.model).flatMap((wide) => {
      const touching = touches.filter((touch) => reads(doing.model, wide.rule.expression, touch));
      const last = touching.at(-1);
      return last === undefined ? [] : [{ wide, line: last.line, before: null }];
    });
  }

  /** Notes the rows that break such a rule already. */
  *look(): CommandWork<void> {
    for (const one of this.watched) {
      const rows = yield* this.broken(one.wide);
      one.before = rows.size > MOST_BROKEN ? null : new Set(rows.keys());
    }
  }

  /** Refuses commands by which a row breaks such a rule that did not break it before. */
  *keep(): CommandWork<void> {
    for (const { wide, line, before } of this.watched) {
      if (before === null) continue;
      for (const [name, key] of yield* this.broken(wide)) {
        if (before.has(name)) continue;
        this.doing.line = line;
        const { entity, rule } = wide;
        // Of a row that is hidden from them nobody is told which it is.
        const isSeen = this.doing.actor === SYSTEM || (yield* this.doing.rowsByKey(entity.name, [key])).size > 0;
        throw new Refused({
          kind: 'rule',
          entity: entity.name,
          rule: rule.name,
          message: rule.message,
          key: isSeen ? key : null,
        });
      }
    }
  }

  /** The rows that break a rule, by the texts of their keys; a few more than are remembered at most. */
  private *broken({ entity, rule }: WideRule): CommandWork<ReadonlyMap<string, Wire>> {
    const { model } = this.doing;
    const where = [{ kind: 'not', operand: rule.expression, type: { kind: 'boolean' }, span: rule.span } as const];
    const limit: Expression = { kind: 'value', value: MOST_BROKEN + 1, type: { kind: 'integer' }, span: rule.span };
    const rows = yield* this.doing.ask(queryOf(entity.name, { where, limit }), { as: SYSTEM });
    return new Map(
      rows.map((row) => {
        const key = keyIn(model, entity.name, row);
        return [String(key), key];
      }),
    );
  }
}

function wideRules(model: Model): readonly WideRule[] {
  return Array.from(model.entities.values()).flatMap((entity) =>
    entity.rules.filter(({ expression }) => rolesWalked(expression).length > 0).map((rule) => ({ entity, rule })),
  );
}

/** Does a rule read, in other rows, what commands touch? */
function reads(model: Model, expression: Expression, { entity, names }: Touch): boolean {
  if (names === 'all that is reached') return true;
  const root = rootOf(model, entity);
  const read = namesRead(expression);
  return rolesWalked(expression).some((ways) => {
    const reached = ways.filter(({ target }) => rootOf(model, target) === root);
    if (reached.length === 0) return false;
    if (names === 'rows') return true;
    // What is asked of the last row, or how it leads on from there.
    return names.some(
      (name) => read.has(name) || ways.some((role) => role.name === name || leadsBack(model, role.relation, entity, name)),
    );
  });
}

/** Whether a role of an entity is the other side of a relation: to set it is to change who stands behind this one. */
function leadsBack(model: Model, relation: string, entity: string, name: string): boolean {
  const { roles, polymorphic } = entityOf(model, entity);
  return [...roles, ...polymorphic].some((role) => role.name === name && role.relation === relation);
}

function rootOf(model: Model, entity: string): string {
  return lineage(model, entity)[0]?.name ?? entity;
}

/** All fields that stand anywhere in an expression. */
function namesRead(expression: Expression): ReadonlySet<string> {
  const own = expression.kind === 'field' ? [expression.field] : expression.kind === 'named' ? [expression.name] : [];
  return new Set([...own, ...operandsOf(expression).flatMap((operand) => Array.from(namesRead(operand)))]);
}

/** What commands do to rows of which entities. */
export function touchesOf(commands: readonly NamedCommand[]): readonly Touch[] {
  return commands.flatMap(({ command }, line) => touchesIn(command).map((touch) => ({ ...touch, line })));
}

function touchesIn(command: Command): readonly Omit<Touch, 'line'>[] {
  switch (command.kind) {
    case 'create':
      return ofNew(command.row);
    case 'find or create':
      return ofNew(command.row);
    case 'create or update':
      return [...ofNew(command.row), { entity: command.row.entity, names: namesOf(command.row.values) }];
    case 'update':
      return [{ entity: command.rows.entity, names: namesOf(command.values) }];
    case 'link':
    case 'unlink':
      return [command.owner.entity, ...command.others.map(({ rows }) => rows.entity)].map((entity) => ({
        entity,
        names: 'rows' as const,
      }));
    case 'delete':
      return [{ entity: command.rows.entity, names: 'all that is reached' }];
  }
}

function ofNew({ entity, children }: NewRow): readonly Omit<Touch, 'line'>[] {
  return [{ entity, names: 'rows' }, ...children.flatMap(({ rows }) => rows.flatMap(ofNew))];
}

function namesOf(values: readonly WrittenValue[]): readonly string[] {
  return values.map((value) => (value.kind === 'field' ? value.field.name : value.role.name));
}
