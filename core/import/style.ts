import type { Table } from '../schema/index.js';
import { withoutNumbering } from '../sql/index.js';
import { typeName, type ValueType } from '../values/index.js';
import type { ImportEngine } from './engines.js';

/** The part of a declared type by which the engine numbers the column. */

/** How the tables of a database are mostly written; the text says it once, and each column only where it differs. */
export interface Style {
  /** The declared type by the word of the notation's type, with letters for its numbers. */
  readonly types: ReadonlyMap<string, string>;
  /** Foreign keys mostly name no column of the table that they point at. */
  readonly unnamedReferences: boolean;
}

/** The word of a type, with letters for its numbers; null for a type that states its own declaration. */
export function typeWord(type: ValueType): string | null {
  switch (type.kind) {
    case 'text':
      return type.length === null ? 'text' : 'text(n)';
    case 'decimal':
      return 'decimal(p, s)';
    case 'sql':
    case 'composite':
    case 'choice':
      return null;
    default:
      return type.kind;
  }
}

/** A declared type with letters for its numbers. */
export function templateOf(declared: string, type: ValueType): string {
  switch (type.kind) {
    case 'text':
      return type.length === null ? declared : declared.replace(String(type.length), 'n');
    case 'decimal':
      return declared.replace(String(type.precision), 'p').replace(/,(\s*)\d+/, ',$1s');
    default:
      return declared;
  }
}

/** The style of a database: how most columns of each type, and most foreign keys, are declared. */
export function styleOf({ typeOf }: ImportEngine, tables: readonly Table[]): Style {
  const counts = new Map<string, Map<string, number>>();
  for (const { type } of tables.flatMap((table) => table.columns)) {
    const declared = withoutNumbering(type);
    const valueType = typeOf(declared);
    const word = typeWord(valueType);
    if (word === null) continue;
    const template = templateOf(declared, valueType);
    const known = counts.get(word) ?? new Map<string, number>();
    known.set(template, (known.get(template) ?? 0) + 1);
    counts.set(word, known);
  }
  const types = new Map<string, string>();
  for (const [word, templates] of [...counts].sort(([a], [b]) => (a < b ? -1 : 1))) {
    const [most] = [...templates].sort(([a, many], [b, more]) => more - many || (a < b ? -1 : 1));
    if (most !== undefined && isTemplate(most[0])) types.set(word, most[0]);
  }
  const keys = tables.flatMap((table) => table.foreignKeys);
  const unnamed = keys.filter((key) => key.references.length === 0).length;
  return { types, unnamedReferences: unnamed * 2 > keys.length };
}

function isTemplate(template: string): boolean {
  return !/[\r\n]/.test(template);
}

/** The lines of the tree's head that state a style: those that differ from how this program writes a type itself. */
export function styleLines(
  engine: ImportEngine,
  { types, unnamedReferences }: Style,
  quoteText: (text: string) => string,
): string[] {
  return [
    '  tables as stated',
    ...(unnamedReferences ? ['  references without columns'] : []),
    ...Array.from(types).flatMap(([word, template]) =>
      template === ownTemplate(engine, word) ? [] : [`  stored ${word} as ${quoteText(template)}`],
    ),
  ];
}

const SAMPLE_TYPES: readonly ValueType[] = [
  ...(['integer', 'bigint', 'real', 'boolean', 'date', 'time', 'timestamp', 'uuid', 'json', 'bytes'] as const).map((kind) => ({
    kind,
  })),
  { kind: 'text', length: null },
  { kind: 'text', length: 77 },
  { kind: 'decimal', precision: 13, scale: 5 },
];

/** How this program declares a type where a text says nothing, with letters for its numbers. */
function ownTemplate({ dialect }: ImportEngine, word: string): string | undefined {
  const type = SAMPLE_TYPES.find((sample) => (typeWord(sample) ?? typeName(sample)) === word);
  return type === undefined ? undefined : templateOf(dialect.values.columnType(type), type);
}

/** Is a column of this type declared so by the style, with nothing said at the field? */
export function isOwnStyle(engine: ImportEngine, style: Style, declared: string, type: ValueType): boolean {
  const word = typeWord(type);
  if (word === null) return type.kind === 'sql' && type.declaration === declared;
  const stated = style.types.get(word);
  // What the text does not state is declared as this program declares it, which for a long text can be another way.
  if (stated === undefined || stated === ownTemplate(engine, word)) return engine.dialect.values.columnType(type) === declared;
  return stated === templateOf(declared, type);
}

/**
 * Is a key that the engine numbers declared as it is where a text says nothing? A style of its type would leave the numbers out.
 */
export function isOwnNumbering({ dialect }: ImportEngine, style: Style, declared: string, type: ValueType): boolean {
  return !style.types.has(type.kind) && dialect.values.keyType(type) === declared;
}
