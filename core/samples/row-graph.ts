import { type Entity, type Expression, entityOf, fieldOf, type Hop, lineage, type Model, type Role } from '../model/index.js';
import { joinKey, type Wire } from '../values/index.js';
import { type Computed, compare, evaluate } from './evaluate.js';
import type { MadeRow } from './made.js';

/** How many rows are looked at in all; what would take more is not told, so that no text takes for ever. */
const MOST_LOOKS = 2_000_000;

/** A row with what it is. */
interface RowOfKind {
  readonly kind: string;
  readonly row: MadeRow;
}

/**
 * The rows that were made, to be walked from one to the others over keys. What leads over a pivot or a path with an order is not
 * known here.
 */
export class RowGraph {
  private readonly byKey = new Map<string, Map<string, RowOfKind>>();
  private looks = 0;
  private readonly byHeld = new Map<string, Map<string, RowOfKind[]>>();

  constructor(
    private readonly model: Model,
    private readonly made: ReadonlyMap<string, readonly MadeRow[]>,
    private readonly now: string,
  ) {}

  /** Whether a condition holds for a row: null where it is unknown, undefined where it cannot be told here. */
  holds(condition: Expression, kind: string, row: MadeRow): Computed | undefined {
    return this.value(condition, { kind, row });
  }

  /** A row stands for another of the same key: whoever points at it finds it, and it is found behind what it points at. */
  replace(kind: string, row: MadeRow, instead: MadeRow): void {
    const root = entityOf(this.model, kind).kinds?.root ?? kind;
    const key = keyText(entityOf(this.model, root).key.columns, row);
    if (key !== null) this.byKey.get(root)?.set(key, { kind, row: instead });
    for (const [name, held] of this.byHeld) {
      const [holder = '', ...columns] = name.split('\n');
      const [was, is] = [keyText(columns, row), keyText(columns, instead)];
      if (!this.isA(kind, holder)) continue;
      const before = was === null ? undefined : held.get(was);
      const at = before?.findIndex((made) => made.row === row) ?? -1;
      if (at >= 0) before?.splice(at, 1);
      if (is !== null) held.set(is, [...(held.get(is) ?? []), { kind, row: instead }]);
    }
  }

  private value(expression: Expression, at: RowOfKind): Computed | undefined {
    this.looks += 1;
    if (this.looks > MOST_LOOKS) return undefined;
    const entity = entityOf(this.model, at.kind);
    const lookup = (name: string) => cell(entity, name, at.row);
    return evaluate(expression, lookup, this.now, (inner) => this.beyond(inner, at));
  }

  private beyond(expression: Expression, at: RowOfKind): Computed | undefined {
    switch (expression.kind) {
      case 'field':
      case 'named': {
        const there = this.one(expression.hops, at);
        if (there === null || there === undefined) return there;
        return expression.kind === 'field'
          ? cell(entityOf(this.model, there.kind), expression.field, there.row)
          : this.value(expression.expression, there);
      }
      case 'role': {
        const there = this.one(expression.hops, at);
        return there === null || there === undefined ? there : this.keyOf(there);
      }
      case 'is kind': {
        const there = this.one(expression.hops, at);
        return there === undefined ? undefined : (there !== null && expression.kinds.includes(there.kind)) !== expression.negated;
      }
      case 'points at': {
        const there = this.one(expression.hops, at);
        if (there === undefined) return undefined;
        const found = there === null ? [] : expression.branches.map((branch) => this.behind(branch, there));
        return found.includes(undefined) ? undefined : found.some((some) => (some ?? []).length > 0) !== expression.negated;
      }
      case 'same row': {
        const there = this.one(expression.hops, at);
        const row = this.value(expression.row, at);
        if (there === undefined || row === undefined) return undefined;
        const [target] = there === null ? [] : expression.branches.flatMap((branch) => this.behind(branch, there) ?? []);
        if (target === undefined) return null;
        if (!this.isA(target.kind, expression.branch.target)) return false;
        return row === null ? null : compare(this.keyOf(target), row) === 0;
      }
      case 'quantified': {
        const ends = this.walk(expression.hops, at);
        if (ends === undefined) return undefined;
        switch (expression.quantifier) {
          case 'any':
            return ends.length > 0;
          case 'none':
            return ends.length === 0;
          case 'count':
            return ends.length;
          case 'all':
            return ends.every((end) => expression.test === null || this.value(expression.test, end) === true);
        }
        return undefined;
      }
      default:
        return undefined;
    }
  }

  private one(hops: readonly Role[], at: RowOfKind): RowOfKind | null | undefined {
    let here: RowOfKind | null = at;
    for (const role of hops) {
      if (here === null) return null;
      const found = this.behind(role, here);
      if (found === undefined) return undefined;
      here = found[0] ?? null;
    }
    return here;
  }

  private walk(hops: readonly Hop[], at: RowOfKind): RowOfKind[] | undefined {
    let here: RowOfKind[] = [at];
    for (const { role, filter } of hops) {
      const next = new Set<RowOfKind>();
      for (const one of here) {
        const found = this.behind(role, one);
        if (found === undefined) return undefined;
        for (const made of found) {
          const passes = filter === null ? true : this.value(filter, made);
          if (passes === undefined) return undefined;
          if (passes === true) next.add(made);
        }
      }
      here = Array.from(next);
    }
    return here;
  }

  private behind(role: Role, at: RowOfKind): readonly RowOfKind[] | undefined {
    const { way } = role;
    if (!this.isA(at.kind, role.entity)) return [];
    const marked = ({ row }: RowOfKind) =>
      way.kind === 'path' || way.mark === null || way.mark.values.includes(String(row.get(way.mark.column) ?? ''));
    switch (way.kind) {
      case 'key': {
        if (!marked(at)) return [];
        const sought = keyText(way.columns, at.row);
        const found = sought === null ? undefined : this.keys(role.target).get(sought);
        return found === undefined || !this.isA(found.kind, role.target) ? [] : [found];
      }
      case 'child': {
        const key = keyText(entityOf(this.model, at.kind).key.columns, at.row);
        const held = key === null ? [] : (this.held(way.holder, way.columns).get(key) ?? []);
        this.looks += held.length;
        if (this.looks > MOST_LOOKS) return undefined;
        return held.filter((made) => marked(made) && this.isA(made.kind, role.target));
      }
      case 'path':
        return way.first ? undefined : this.walk(way.hops, at);
      case 'pivot':
        return undefined;
    }
  }

  private keys(name: string): Map<string, RowOfKind> {
    const root = entityOf(this.model, name).kinds?.root ?? name;
    const known = this.byKey.get(root);
    if (known !== undefined) return known;
    const { columns } = entityOf(this.model, root).key;
    const keys = new Map<string, RowOfKind>();
    for (const made of this.rowsOf(root)) keys.set(keyText(columns, made.row) ?? '', made);
    this.byKey.set(root, keys);
    return keys;
  }

  private held(holder: string, columns: readonly string[]): Map<string, RowOfKind[]> {
    const name = `${holder}\n${columns.join('\n')}`;
    const known = this.byHeld.get(name);
    if (known !== undefined) return known;
    const held = new Map<string, RowOfKind[]>();
    for (const made of this.rowsOf(holder)) {
      const key = keyText(columns, made.row);
      if (key === null) continue;
      const known = held.get(key);
      if (known === undefined) held.set(key, [made]);
      else known.push(made);
    }
    this.byHeld.set(name, held);
    return held;
  }

  private rowsOf(name: string): RowOfKind[] {
    const kinds = entityOf(this.model, name).kinds?.concrete.map(({ entity }) => entity) ?? [name];
    return kinds.flatMap((kind) => (this.made.get(kind) ?? []).map((row) => ({ kind, row })));
  }

  private isA(kind: string, entity: string): boolean {
    return kind === entity || lineage(this.model, kind).some(({ name }) => name === entity);
  }

  private keyOf({ kind, row }: RowOfKind): Computed {
    const { key } = entityOf(this.model, kind);
    const joined = joinKey(
      key.type,
      key.columns.map((column) => row.get(column) ?? null),
    );
    return joined === null || typeof joined === 'object' ? null : joined;
  }
}

function cell({ fields }: Entity, name: string, row: MadeRow): Computed {
  const field = fieldOf(fields, name);
  const value: Wire = row.get(field.column.value) ?? null;
  return value === null || typeof value === 'object' ? null : value;
}

function keyText(columns: readonly string[], row: MadeRow): string | null {
  const parts = columns.map((column) => row.get(column) ?? null);
  return parts.includes(null) ? null : parts.map(String).join('\u0001');
}
