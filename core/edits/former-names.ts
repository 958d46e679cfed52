import type { Edit, EntityLine, Name, PhysicalName, Span, Syntax } from '../notation/index.js';

/**
 * The edits that take every `was` out of a text: once all databases of a design have followed it, what things were called says nothing
 * any more. One that stands in a mixin is one edit.
 */
export function withoutFormerNames({ declarations }: Syntax, text: string): Edit[] {
  const spans = declarations.flatMap((one): (Span | null)[] => {
    switch (one.kind) {
      case 'entity':
        return [physical(one.was), ...inLines(one.lines)];
      case 'mixin':
        return inLines(one.lines);
      case 'relation':
        return [
          one.was?.span ?? null,
          ...one.lines.flatMap((line) => (line.kind === 'stored' ? [physical(line.was), ...inLines(line.lines)] : [])),
        ];
      default:
        return [];
    }
  });
  return spans.flatMap((span) => {
    const before = span === null ? null : /[ \t]+was[ \t]+$/.exec(text.slice(0, span.start));
    return span === null || before === null ? [] : [{ span: { start: before.index, end: span.end }, text: '' }];
  });
}

function inLines(lines: readonly EntityLine[]): (Span | null)[] {
  return lines.flatMap((line) =>
    line.kind !== 'field'
      ? []
      : line.modifiers.flatMap((modifier) =>
          modifier.kind === 'was' ? [{ start: (modifier.entity ?? modifier.name).span.start, end: modifier.name.span.end }] : [],
        ),
  );
}

function physical(name: PhysicalName | null): Span | null {
  return name === null ? null : { start: first(name).span.start, end: name.name.span.end };
}

function first({ schema, name }: PhysicalName): Name {
  return schema ?? name;
}
