/** `npm run values`: writes docs/values.md, the table of values, from the code that keeps it. */
import { writeFileSync } from 'node:fs';
import { type Dialect, dialects } from '../core/dialects/index.js';
import { column } from '../core/sql/index.js';
import { typeName, type ValueType, type Wire } from '../core/values/index.js';

/** Each type of the notation with a value of it. */
const TYPES: readonly { readonly type: ValueType; readonly wire: Wire }[] = [
  { type: { kind: 'integer' }, wire: 42 },
  { type: { kind: 'bigint' }, wire: '9007199254740993' },
  { type: { kind: 'decimal', precision: 8, scale: 2 }, wire: '12.50' },
  { type: { kind: 'real' }, wire: 0.1 },
  { type: { kind: 'boolean' }, wire: true },
  { type: { kind: 'text', length: null }, wire: 'it’s' },
  { type: { kind: 'text', length: 40 }, wire: 'it’s' },
  { type: { kind: 'date' }, wire: '2031-04-12' },
  { type: { kind: 'time' }, wire: '09:30:00' },
  { type: { kind: 'timestamp' }, wire: '2031-04-12T09:30:00.000000Z' },
  { type: { kind: 'uuid' }, wire: '6ba7b810-9dad-11d1-80b4-00c04fd430c8' },
  { type: { kind: 'json' }, wire: { a: 1 } },
  { type: { kind: 'bytes' }, wire: '00ff' },
];

/** The table of values as Markdown: what each type is on each engine. */
export function valuesDocument(): string {
  const engines = Object.values(dialects);
  const head = `| type | ${engines.map(({ title }) => title).join(' | ')} |\n|---|${engines.map(() => '---|').join('')}`;
  const table = (cell: (dialect: Dialect, type: ValueType, wire: Wire) => string) =>
    [
      head,
      ...TYPES.map(
        ({ type, wire }) => `| \`${typeName(type)}\` | ${engines.map((dialect) => cell(dialect, type, wire)).join(' | ')} |`,
      ),
    ].join('\n');
  const code = (sql: string | null) => (sql === null ? '–' : `\`${sql.replaceAll('|', '\\|')}\``);
  const isKey = ({ kind }: ValueType) => kind === 'integer' || kind === 'bigint';
  return `# Values, type by engine

Made from \`core/values\` by \`npm run values\`; a test holds the two together. The wire form of a value is the same on every
engine: ${TYPES.map(({ type, wire }) => `\`${typeName(type)}\` ${code(JSON.stringify(wire))}`).join(', ')}.

## The column

Of a key that the engine numbers, behind the stroke.

${table(({ values }, type) => `${code(values.columnType(type))}${isKey(type) ? ` / ${code(values.keyType(type))}` : ''}`)}

## The check that keeps out what the type does not

${table(({ values }, type) => code(values.check(type, 'c', false)?.sql ?? null))}

## How a value is bound

What the driver is given, and the type it is cast to where the engine would else guess.

${table(({ values }, type, wire) => {
  const bound = values.bind(type, wire);
  const shown =
    bound instanceof Uint8Array ? `${bound.length} bytes` : typeof bound === 'bigint' ? `${bound}n` : JSON.stringify(bound);
  const cast = values.parameterType(type);
  return `${code(shown)}${cast === null ? '' : ` as ${code(cast)}`}`;
})}

## A literal

${table(({ values, print }, type, wire) => code(print(values.literal(type, wire))))}

## How it is selected

SQLite hands rows over by columns, as JSON; the others as rows, each value as the driver reads it without loss.

${table(({ values, print }, type) => (values.json === null ? 'as it is' : code(print(values.json.toJson(type, column(null, 'c'))))))}

## How it is ordered and told to be more or less

Nulls stand first, and last where the order descends; text by code point.

${table(({ values, print }, type) => code(print(values.ordered(type, values.operand(type, column(null, 'c'), false)))))}

## As the text that joining makes of it

${table(({ values, print }, type) => code(print(values.asText(type, column(null, 'c')))))}
`;
}

if (process.argv[1]?.endsWith('values.ts') === true) writeFileSync('docs/values.md', valuesDocument());
