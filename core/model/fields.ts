import type { EntityLine, Literal, Modifier, Name, TypeSyntax } from '../notation/index.js';
import { expressionFault, typeFault } from '../sql/index.js';
import {
  characters,
  type DefaultValue,
  engineValues,
  LEAST_CHOICE_LENGTH,
  parseWire,
  typeName,
  type ValueType,
  type Wire,
} from '../values/index.js';
import { type Resolution, unknownName, wrong } from './draft.js';
import type { Choice, Field, PhysicalColumn } from './model.js';
import { refer } from './references.js';

type FieldLine = Extract<EntityLine, { kind: 'field' }>;

/**
 * A field of an entity, a mixin or a pivot. What is wrong with one of its modifiers is told and left out; the field
 * stands. Null where its type does not.
 */
export function resolveField(resolution: Resolution, owner: string, line: FieldLine, mixin: string | null): Field | null {
  const type = resolveType(resolution, line.type);
  if (type === null) return null;
  const label = `${owner}.${line.name.text}`;
  const has = (kind: Modifier['kind']) => line.modifiers.some((modifier) => modifier.kind === kind);
  const key = has('key');
  const column = find(line.modifiers, 'column');
  const unique = has('unique');
  const given = find(line.modifiers, 'in');
  const allowed =
    given === undefined
      ? null
      : given.values.map((value) => literalValue(resolution, label, type, value)).filter((value) => value !== null);
  if (key && has('optional')) {
    resolution.findings.push({
      weight: 'warning',
      code: 'optional-key',
      message: `${label} is the key, and may be null: SQLite alone lets such rows in, and nothing can point at them. Remove optional once none is there.`,
      span: line.name.span,
      fixes: [],
    });
  }
  return {
    name: line.name.text,
    type,
    column:
      column === undefined
        ? { value: line.name.text, origin: { kind: 'convention', rule: 'the name of the field' } }
        : { value: column.name.text, origin: { kind: 'stated', span: column.name.span } },
    required: !has('optional'),
    key,
    unique: unique ? { message: line.tail.message?.value ?? null } : null,
    default: resolveDefault(resolution, label, type, line.modifiers),
    allowed,
    onUpdateNow: has('on update now'),
    physical: {
      declaration: declarationOf(resolution, label, find(line.modifiers, 'stored as')),
      collation: find(line.modifiers, 'collate')?.name.text ?? null,
      generated: generatedOf(resolution, label, find(line.modifiers, 'generated')),
      notNull: has('not null'),
      neverReused: has('never reused'),
    },
    hidden: has('hidden'),
    internal: has('internal'),
    fixed: has('fixed'),
    title: find(line.modifiers, 'title')?.text.value ?? null,
    note: line.tail.note?.value ?? null,
    mixin,
    owner,
    span: line.span,
  };
}

function find<K extends Modifier['kind']>(modifiers: readonly Modifier[], kind: K): Extract<Modifier, { kind: K }> | undefined {
  return modifiers.find((modifier): modifier is Extract<Modifier, { kind: K }> => modifier.kind === kind);
}

type ModifierOf<K extends Modifier['kind']> = Extract<Modifier, { kind: K }> | undefined;

function declarationOf(resolution: Resolution, label: string, stated: ModifierOf<'stored as'>): string | null {
  if (stated === undefined) return null;
  const fault = typeFault(stated.declaration.value, resolution.dialect);
  return fault === null
    ? stated.declaration.value
    : wrong(resolution, 'stated-type', stated.span, `${label}, stored as: this is not one type, since ${fault}.`);
}

function generatedOf(resolution: Resolution, label: string, stated: ModifierOf<'generated'>): PhysicalColumn['generated'] {
  if (stated === undefined) return null;
  const fault = expressionFault(stated.sql.value, resolution.dialect, true);
  return fault === null
    ? { sql: stated.sql.value, stored: stated.stored }
    : wrong(resolution, 'stated-sql', stated.span, `${label}, generated as: this is not one expression, since ${fault}.`);
}

function resolveDefault(
  resolution: Resolution,
  label: string,
  type: ValueType,
  modifiers: readonly Modifier[],
): DefaultValue | null {
  const stated = find(modifiers, 'default');
  if (stated === undefined) return null;
  if (stated.value.kind === 'null') return { kind: 'sql', sql: 'NULL' };
  const literal = stated.value;
  if (literal.kind === 'sql') {
    const fault = expressionFault(literal.sql, resolution.dialect, false);
    return fault === null
      ? { kind: 'sql', sql: literal.sql }
      : wrong(resolution, 'stated-sql', literal.span, `${label}, default: this is not one expression, since ${fault}.`);
  }
  if (literal.kind === 'today' || literal.kind === 'now') {
    const fits = literal.kind === 'today' ? ['date', 'timestamp'] : ['timestamp', 'date', 'time'];
    if (fits.includes(type.kind)) return { kind: literal.kind };
    wrong(
      resolution,
      'default-type',
      literal.span,
      `${label}: ${literal.kind} is no default for ${typeName(type)}. Use it with ${fits.join(' or ')}.`,
    );
    return null;
  }
  const value = literalValue(resolution, label, type, literal);
  return value === null ? null : { kind: 'value', value };
}

/** A literal as a value of a type, or null with a finding that says what does not fit. */
export function literalValue(resolution: Resolution, label: string, type: ValueType, literal: Literal): Wire | null {
  const written = literalText(literal);
  const isText = literal.kind === 'text';
  const takesText = !['integer', 'bigint', 'real', 'decimal', 'boolean'].includes(type.kind);
  if (written === null || (isText !== takesText && type.kind !== 'sql')) {
    const expected = takesText
      ? `a text in single quotes`
      : type.kind === 'boolean'
        ? 'true or false'
        : 'a number without quotes';
    return wrong(resolution, 'literal-type', literal.span, `${label} is ${typeName(type)}, so its value is ${expected}.`);
  }
  const parsed = parseWire(type, written);
  return parsed.ok ? parsed.value : wrong(resolution, 'literal-type', literal.span, `${label}: ${parsed.problem}`);
}

function literalText(literal: Literal): string | null {
  switch (literal.kind) {
    case 'number':
      return literal.text;
    case 'text':
      return literal.value;
    case 'boolean':
      return String(literal.value);
    default:
      return null;
  }
}

const MOST_DIGITS = 1000;

/** The type that a field, or a parameter, is declared with. */
export function resolveType(resolution: Resolution, type: TypeSyntax): ValueType | null {
  switch (type.kind) {
    case 'named': {
      const choice = resolution.choices.get(type.name.text);
      if (choice !== undefined) refer(resolution.references, type.name, 'choice');
      if (choice !== undefined) return choiceType(choice);
      return resolution.entities.has(type.name.text) || resolution.leftOut.has(type.name.text)
        ? wrong(
            resolution,
            'entity-as-type',
            type.span,
            `${type.name.text} is an entity, and a field holds a value. State a relation instead.`,
          )
        : unknownChoice(resolution, type.name);
    }
    case 'decimal': {
      const { precision, scale, span } = type;
      // No engine has more than a thousand of either.
      const most = engineValues[resolution.dialect].morePlacesThanDigits ? MOST_DIGITS : precision;
      if (precision < 1 || precision > MOST_DIGITS || scale > most)
        return wrong(
          resolution,
          'decimal-digits',
          span,
          `decimal(${precision}, ${scale}): a decimal has 1 to ${MOST_DIGITS} digits, and no more places than digits. Write it as decimal(10, 2).`,
        );
      return { kind: 'decimal', precision, scale };
    }
    case 'text':
      return { kind: 'text', length: type.length };
    case 'sql': {
      const fault = typeFault(type.declaration, resolution.dialect);
      return fault === null
        ? { kind: 'sql', declaration: type.declaration }
        : wrong(resolution, 'stated-type', type.span, `sql('…'): this is not one type, since ${fault}.`);
    }
    default:
      return { kind: type.kind };
  }
}

function unknownChoice(resolution: Resolution, name: Name): null {
  return unknownName(resolution, name, 'choice', resolution.choices.keys());
}

/** The type of a field that holds a choice: a text of its values, at least as long as the longest. */
export function choiceType(choice: Choice): ValueType {
  const values = choice.values.map((value) => value.value);
  return {
    kind: 'choice',
    choice: choice.name,
    values,
    length: Math.max(LEAST_CHOICE_LENGTH, ...values.map(characters)),
  };
}

/** Does a column of one type hold keys of the other? */
export function sameKeyType(own: ValueType, key: ValueType): boolean {
  if (own.kind !== key.kind) return false;
  if (own.kind === 'text' && key.kind === 'text') return own.length === key.length;
  if (own.kind === 'sql' && key.kind === 'sql') return own.declaration.toLowerCase() === key.declaration.toLowerCase();
  if (own.kind === 'decimal' && key.kind === 'decimal') return own.precision === key.precision && own.scale === key.scale;
  return true;
}
