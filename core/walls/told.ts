import type { Model, Pin, Wall } from '../model/index.js';
import type { Span } from '../notation/index.js';

/** A wall in words. */
export interface WallTold {
  readonly name: string;
  readonly span: Span;
  readonly sentences: readonly string[];
  readonly note: string | null;
}

/** The walls of a model as sentences. @param text of the design, whose words the conditions are told in */
export function wallsTold({ walls }: Model, text: string): readonly WallTold[] {
  const words = ({ start, end }: Span) => text.slice(start, end).replace(/\s+/g, ' ');
  return Array.from(walls.values(), (wall) => ({
    name: wall.name,
    span: wall.head,
    note: wall.note,
    sentences: [...kept(wall, words), ...pinned(wall, words), ...freed(wall, words)],
  }));
}

/** What keeps rows from whom; entities that are kept by one line are told together. */
function kept({ conditions, reads, writes }: Wall, words: (span: Span) => string): string[] {
  const lines = new Map<number, { readonly entities: string[]; readonly condition: string }>();
  for (const [entity, own] of conditions)
    for (const { holds, kinds } of own) {
      if (kinds !== null) continue;
      const line = lines.get(holds.span.start) ?? { entities: [], condition: words(holds.span) };
      line.entities.push(entity);
      lines.set(holds.span.start, line);
    }
  const done = reads && writes ? 'seen and changed' : reads ? 'seen' : 'changed';
  return Array.from(lines.values(), ({ entities, condition }) => {
    const few = entities.length === 1 ? entities[0] : `${entities.slice(0, -1).join(', ')} and ${entities.at(-1)}`;
    return `Of ${few} only rows where ${condition} are ${done}.`;
  });
}

function pinned({ pins }: Wall, words: (span: Span) => string): string[] {
  return Array.from(pins, ([entity, own]) =>
    own.map((pin) => `A new ${entity} has ${words(pin.value.span)} as its ${memberOf(pin)}, and nobody gives it another.`),
  ).flat();
}

function memberOf({ member }: Pin): string {
  return member.kind === 'field' ? member.field.name : member.role.name;
}

function freed({ unless }: Wall, words: (span: Span) => string): string[] {
  return unless.map(({ span }) => `It is not for those of whom ${words(span)} is true.`);
}
