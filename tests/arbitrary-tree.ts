import fc from 'fast-check';

/** A key of two fields. */
const COMPOSITE = 'composite';

/** A text of the notation with entities, constraints and relations of every form that is built. */
export const arbitraryTree: fc.Arbitrary<string> = fc
  .record({
    entities: fc.array(
      fc.record({
        key: fc.constantFrom('integer', 'bigint', 'uuid', 'text(20)', COMPOSITE),
        fields: fc.array(
          fc.record({
            type: fc.constantFrom(
              'integer',
              'bigint',
              'decimal(6, 2)',
              'decimal(30, 4)',
              'real',
              'boolean',
              'text',
              'text(40)',
              'date',
              'time',
              'timestamp',
              'uuid',
              'json',
              'bytes',
              'Shade',
            ),
            optional: fc.boolean(),
            unique: fc.boolean(),
            byDefault: fc.boolean(),
          }),
          { maxLength: 6 },
        ),
        group: fc.boolean(),
        check: fc.boolean(),
        quoted: fc.boolean(),
      }),
      { minLength: 1, maxLength: 5 },
    ),
    relations: fc.array(
      fc.record({
        form: fc.constantFrom('many', 'many at most', 'one', 'pivot', 'symmetric', 'repeats'),
        from: fc.nat(4),
        to: fc.nat(4),
        rule: fc.constantFrom('cascade', 'restrict', 'no action', ''),
      }),
      { maxLength: 7 },
    ),
  })
  .map(({ entities, relations }) => {
    const blocks = [`tree 'Generated'\n  clock '2031-04-12 09:00'`, `choice Shade\n  'light'\n  'it''s dark'`];
    entities.forEach((entity, index) => {
      const table = entity.quoted ? `"Order ${index}"` : `things_${index}`;
      const lines = [
        `entity Thing${index} in ${table}`,
        `  ${entity.key === COMPOSITE ? 'number bigint\n  code text(12)\n  key (number, code)' : `id ${entity.key} key`}`,
      ];
      entity.fields.forEach((field, position) => {
        const unique = field.unique && !['boolean', 'json', 'bytes', 'Shade'].includes(field.type) ? ' unique' : '';
        const byDefault = field.byDefault && unique === '' ? defaultFor(field.type) : '';
        lines.push(
          `  ${position === 0 && entity.quoted ? `"from ${position}"` : `field_${position}`} ${field.type}${field.optional ? ' optional' : ''}${unique}${byDefault}`,
        );
      });
      const second = entity.fields.length > 1 ? 'field_1' : null;
      if (entity.group && second !== null) lines.push(`  index (${second})`);
      if (entity.check && entity.fields[1]?.type === 'integer') lines.push('  check small: field_1 < 1000 and field_1 <> 13');
      blocks.push(lines.join('\n'));
    });
    relations.forEach(({ form, from, to, rule }, index) => {
      const a = `Thing${from % entities.length}`;
      const b = `Thing${to % entities.length}`;
      const composite = (name: number) => entities[name % entities.length]?.key === COMPOSITE;
      const columns = (name: number, stem: string) => (composite(name) ? `(${stem}_number, ${stem}_code)` : `${stem}_id`);
      const onDelete = rule === '' ? '' : `\n  on delete ${rule}`;
      const up = `up_${index}`;
      const down = `down_${index}`;
      // Keys that must be there lead one way only, so that a first row can be put in.
      const knows = from % entities.length <= to % entities.length || form === 'many at most' ? 'at most one' : 'one';
      if (form === 'symmetric') blocks.push(`relation kin_${index}\n  ${a} knows many ${a} as ${up}, both ways`);
      else if (form === 'pivot' || form === 'repeats') {
        const repeats = form === 'repeats' ? ' repeats' : '';
        blocks.push(
          `relation kin_${index}\n  ${a} knows many ${b} as ${up}\n  ${b} knows many ${a} as ${down}\n  stored in table pairs_${index} (${columns(from, 'first')}, ${columns(to, 'second')})${repeats}\n    weight  integer default 1${onDelete}`,
        );
      } else {
        const back = form === 'one' ? 'at most one' : 'many';
        const store = form === 'one' ? `\n  stored in ${a}.${columns(to, up)} as ${up}` : '';
        blocks.push(
          `relation kin_${index}\n  ${a} knows ${knows} ${b} as ${up}\n  ${b} knows ${back} ${a} as ${down}${store}${onDelete}`,
        );
      }
    });
    return `${blocks.join('\n\n')}\n`;
  });

function defaultFor(type: string): string {
  const literal: Record<string, string> = {
    integer: '7',
    bigint: '9007199254740993',
    'decimal(6, 2)': '2.50',
    real: '0.5',
    boolean: 'true',
    text: "'it''s'",
    'text(40)': "''",
    date: 'today',
    time: "'09:30'",
    timestamp: 'now',
    Shade: "'it''s dark'",
  };
  return literal[type] === undefined ? '' : ` default ${literal[type]}`;
}
