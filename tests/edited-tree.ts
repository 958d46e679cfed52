import fc from 'fast-check';

/** One change that a person makes to a text. */
export interface Edit {
  readonly kind: (typeof KINDS)[number];
  readonly at: number;
  readonly what: number;
}

const KINDS = [
  'add field',
  'drop field',
  'optional',
  'type',
  'unique',
  'default',
  'rename field',
  'rename table',
  'drop block',
  'rule',
  'index',
  'add child',
  'add pivot',
  'swap',
] as const;

export const arbitraryEdits: fc.Arbitrary<readonly Edit[]> = fc.array(
  fc.record({ kind: fc.constantFrom(...KINDS), at: fc.nat(200), what: fc.nat(200) }),
  { minLength: 1, maxLength: 6 },
);

const TYPES = [
  'integer',
  'bigint',
  'decimal(6, 2)',
  'decimal(30, 4)',
  'real',
  'boolean',
  'text',
  'text(40)',
  'text(3)',
  'date',
  'time',
  'timestamp',
  'uuid',
  'bytes',
  'Shade',
];
const RULES = ['cascade', 'restrict', 'no action'];

/** A line of an entity that states a field which is no key: its name, its type, and the rest. */
const FIELD =
  /^ {2}("[^"]+"|[a-z]\w*) ((?:integer|bigint|decimal\([^)]*\)|real|boolean|text(?:\(\d+\))?|date|timestamp|time|uuid|json|bytes|Shade)\b(?:\([^)]*\))?)(.*)$/;

/** A text after edits, and what was renamed in it, by the new names. What no edit can be done to is left as it is. */
export function edited(text: string, edits: readonly Edit[]): string {
  let blocks = text.trimEnd().split('\n\n');
  for (const [number, edit] of edits.entries()) blocks = editedOnce(blocks, edit, number);
  return `${blocks.join('\n\n')}\n`;
}

function editedOnce(blocks: readonly string[], { kind, at, what }: Edit, number: number): string[] {
  const changed = [...blocks];
  const entities = blocks.flatMap((block, index) => (block.startsWith('entity ') ? [index] : []));
  const entity = entities[at % Math.max(1, entities.length)];
  if (entity === undefined) return changed;
  const lines = (blocks[entity] ?? '').split('\n');
  const fields = lines.flatMap((line, index) => (FIELD.test(line) && !/\bkey\b/.test(line) ? [index] : []));
  const field = fields[what % Math.max(1, fields.length)];
  const type = TYPES[what % TYPES.length] ?? 'text';
  const put = (line: number, told: (name: string, type: string, rest: string) => string | null) => {
    const [, name = '', was = '', rest = ''] = FIELD.exec(lines[line] ?? '') ?? [];
    const now = told(name, was, rest);
    if (now === null) lines.splice(line, 1);
    else lines[line] = now;
  };
  const without = (rest: string, word: RegExp) => rest.replace(word, '').replace(/ +/g, ' ');
  switch (kind) {
    case 'add field': {
      const rest = [' optional', ` default ${defaultOf(type)}`, ''][at % 3] ?? '';
      lines.splice(1, 0, `  added_${number} ${type}${rest}`);
      break;
    }
    case 'drop field':
      if (field !== undefined) put(field, () => null);
      break;
    case 'optional':
      if (field !== undefined)
        put(
          field,
          (name, was, rest) => `  ${name} ${was}${/\boptional\b/.test(rest) ? without(rest, / optional\b/) : ` optional${rest}`}`,
        );
      break;
    case 'type':
      if (field !== undefined)
        put(field, (name, _was, rest) => `  ${name} ${type}${without(rest, / default (?:'(?:[^']|'')*'|\S+)/)}`);
      break;
    case 'unique':
      if (field !== undefined)
        put(
          field,
          (name, was, rest) => `  ${name} ${was}${/\bunique\b/.test(rest) ? without(rest, / unique\b/) : `${rest} unique`}`,
        );
      break;
    case 'default':
      if (field !== undefined)
        put(field, (name, was, rest) =>
          /\bdefault\b/.test(rest)
            ? `  ${name} ${was}${without(rest, / default (?:'(?:[^']|'')*'|\S+)/)}`
            : `  ${name} ${was}${rest} default ${defaultOf(was)}`,
        );
      break;
    case 'rename field':
      if (field !== undefined && !/\bwas\b/.test(lines[field] ?? ''))
        put(field, (name, was, rest) => `  renamed_${number} ${was}${rest} was ${name}`);
      break;
    case 'rename table':
      if (/ in ("[^"]+"|\w+)/.test(lines[0] ?? '') && !/ given| was /.test(lines[0] ?? ''))
        lines[0] = (lines[0] ?? '').replace(/ in ("[^"]+"|\w+)(.*)$/, ` in renamed_${number}$2 was $1`);
      break;
    case 'drop block': {
      const from = 2 + (at % Math.max(1, blocks.length - 2));
      changed.splice(from, 1);
      return changed;
    }
    case 'rule': {
      const ruled = blocks.flatMap((block, index) => (/^ {2}on delete /m.test(block) ? [index] : []));
      const index = ruled[at % Math.max(1, ruled.length)];
      if (index !== undefined)
        changed[index] = (blocks[index] ?? '').replace(/^ {2}on delete .*$/m, `  on delete ${RULES[what % RULES.length]}`);
      return changed;
    }
    case 'index': {
      const name = /^ {2}("[^"]+"|\w+)/.exec(lines[field ?? -1] ?? '')?.[1];
      if (name !== undefined && !/json|bytes|text /.test(lines[field ?? -1] ?? '')) lines.push(`  index (${name})`);
      break;
    }
    case 'add child': {
      const name = /^entity (\w+)/.exec(lines[0] ?? '')?.[1] ?? '';
      const knows = what % 2 === 0 ? 'at most one' : 'one';
      changed.push(
        `entity Child${number} in children_${number}\n  id integer key\n  body text(20)`,
        `relation child_of_${number}\n  Child${number} knows ${knows} ${name} as parent_${number}\n  ${name} knows many Child${number} as children_${number}\n  on delete cascade`,
      );
      return changed;
    }
    case 'add pivot': {
      const name = /^entity (\w+)/.exec(lines[0] ?? '')?.[1] ?? '';
      const other = /^entity (\w+)/.exec(blocks[entities[what % entities.length] ?? -1] ?? '')?.[1] ?? '';
      if (name !== other)
        changed.push(
          `relation met_${number}\n  ${name} knows many ${other} as met_${number}\n  ${other} knows many ${name} as met_by_${number}\n  stored in table met_${number} (one_id, other_id)`,
        );
      return changed;
    }
    case 'swap': {
      const [first, second] = fields;
      if (first !== undefined && second !== undefined) {
        const line = lines[first] ?? '';
        lines[first] = lines[second] ?? '';
        lines[second] = line;
      }
      break;
    }
  }
  changed[entity] = lines.join('\n');
  return changed;
}

function defaultOf(type: string): string {
  const literal: Readonly<Record<string, string>> = {
    integer: '7',
    bigint: '9007199254740993',
    'decimal(6, 2)': '2.50',
    'decimal(30, 4)': '12345678901234567890.1250',
    real: '0.5',
    boolean: 'true',
    date: "'2031-04-12'",
    time: "'09:30:00'",
    timestamp: "'2031-04-12 09:00'",
    uuid: "'00000000-0000-4000-8000-000000000001'",
    Shade: "'light'",
  };
  return literal[type] ?? "'it'";
}

/** A value of a type, as an answer writes it. */
export function answerFor(type: string): string {
  return /bytes/i.test(type) ? "'00'" : defaultOf(type);
}
