import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { readDesign } from '../design/index.js';
import { parseWire, type ValueType } from '../values/index.js';
import { createText, deleteText, keyFrom, linkText, nameText, type RowName, rowText, updateText } from './index.js';

const design = readDesign(`
entity Part in parts
  id        integer key
  name      text optional
  "order"   integer optional
  worth     decimal(12, 3) optional
  bought_on date optional
  at        timestamp optional
  doc       json optional
  data      bytes optional
  whole     boolean optional
  code      uuid optional
  weight    real optional
  count     bigint optional
entity Seat in seats
  row   integer
  place text
  key (row, place)
relation sitting
  Part knows at most one Seat as seat
  Seat knows many Part as parts
`);

const row = (entity: string, written: string): RowName => {
  const keyType = design.model.entities.get(entity)?.key.type ?? { kind: 'integer' };
  return { entity, keyType, key: keyFrom(keyType, written) };
};

/** What a command puts into each field, as the text of it was read again. */
function readBack(text: string): readonly unknown[] {
  const { commands, findings } = design.commandsOf(text);
  if (commands === null) return findings.map(({ message }) => message);
  return commands.flatMap(({ command }) => {
    const values = command.kind === 'update' ? command.values : command.kind === 'create' ? command.row.values : [];
    return values.map((value) =>
      value.kind === 'field' && value.expression.kind === 'value'
        ? value.expression.value
        : value.kind === 'field'
          ? value.expression.kind
          : 'a row',
    );
  });
}

const typeOf = (field: string): ValueType => {
  const found = design.model.entities.get('Part')?.fields.find(({ name }) => name === field);
  if (found === undefined) throw new Error(`no ${field}`);
  return found.type;
};

describe('what a person puts into a row is read again as it was put in', () => {
  test('any text, with quotes, lines and what looks like a comment in it', () => {
    const texts = fc.oneof(
      fc.string({ unit: 'binary' }).map((text) => text.replaceAll('\0', '')),
      fc.constantFrom("'", "''", "a\n'b'\n", '-- no comment', '; delete Part(1)', '\\', '\n', 'x\ny', '”“', "lines('a')"),
    );
    fc.assert(
      fc.property(texts, (text) => {
        const command = updateText(row('Part', '1'), [
          { name: 'name', entered: { kind: 'value', type: typeOf('name'), text } },
          { name: 'order', entered: { kind: 'nothing' } },
        ]);
        expect(readBack(command)).toEqual([text, null]);
      }),
      { numRuns: 300 },
    );
  });

  test.each([
    ['order', '-7'],
    ['worth', '-0.500'],
    ['worth', '123456789.125'],
    ['bought_on', '2031-04-12'],
    ['at', '2031-04-12 09:30'],
    ['doc', '{"it\'s": [1, "a\\nb", null]}'],
    ['data', '00ff'],
    ['whole', 'true'],
    ['code', '0DB5A2DA-5C15-4A4B-8F39-0B2A5D9C9D11'],
    ['weight', '-1.5e-7'],
    ['weight', '2.25e300'],
    ['weight', '5e-324'],
    ['count', '9007199254740993'],
  ])('a value of %s: %s', (field, text) => {
    const type = typeOf(field);
    const parsed = parseWire(type, text);
    const command = updateText(row('Part', '1'), [{ name: field, entered: { kind: 'value', type, text } }]);
    const { commands, findings } = design.commandsOf(command);
    expect(findings).toEqual([]);
    expect(commands).toHaveLength(1);
    const again = parseWire(type, literalIn(command));
    expect(again).toEqual(parsed);
  });

  /** The value at the end of a command, without its quotes. */
  function literalIn(command: string): string {
    const written = command.slice(command.indexOf(' with ') + 6).replace(/^\S+ /, '');
    return written.startsWith("'") ? written.slice(1, -1).replaceAll("''", "'") : written;
  }
});

describe('a click stands for a command of the notation', () => {
  const seat = row('Seat', '[3,"a\'b"]');
  test('that names a row by its key, of several parts too, and a name that reads as something else in quotes', () => {
    expect(rowText(seat)).toBe("Seat(3, 'a''b')");
    expect(nameText('now')).toBe('"now"');
    expect(nameText('a "b"')).toBe('"a ""b"""');
    expect(nameText('name')).toBe('name');
  });

  test('that makes, changes, links and removes', () => {
    const entries = [{ name: 'seat', entered: { kind: 'row' as const, row: seat } }];
    const commands = [
      createText('Part', []),
      createText({ owner: seat, role: 'parts' }, [{ name: 'name', entered: { kind: 'nothing' } }]),
      updateText(row('Part', '4'), entries),
      linkText('link', seat, 'parts', [row('Part', '1'), row('Part', '2')]),
      linkText('unlink', seat, 'parts', [row('Part', '1')]),
      deleteText([row('Part', '1'), row('Part', '2')]),
      deleteText({ entity: 'Part', where: 'name = 1\n  or seat is null' }).replace('name = 1', 'id = 1'),
    ];
    expect(commands).toEqual([
      'create Part',
      "create Seat(3, 'a''b').parts with name null",
      "update Part(4) with seat Seat(3, 'a''b')",
      "link Seat(3, 'a''b').parts to Part(1), Part(2)",
      "unlink Seat(3, 'a''b').parts from Part(1)",
      'delete Part(1)\ndelete Part(2)',
      'delete Part[id = 1 or seat is null]',
    ]);
    expect(design.commandsOf(commands.join('\n')).findings).toEqual([]);
  });
});
