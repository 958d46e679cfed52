/**
 * A text of the given size that is built like an application's schema: modules of about a dozen entities that mostly
 * know each other, a few bridges between modules, pivots, and some hubs that every module points at.
 */
export function generatedSchema(entities: number): string {
  const random = sequence(entities);
  const size = 12;
  const hubs = Math.min(3, Math.floor(entities / 30));
  const name = (index: number) => `E${index}`;
  const lines: string[] = ["tree 'Generated'"];
  const relations: string[] = [];
  const relate = (kind: 'key' | 'pivot', child: number, parent: number) => {
    const id = relations.length;
    const sentences =
      kind === 'key'
        ? `  ${name(child)} knows ${random() < 0.7 ? 'one' : 'at most one'} ${name(parent)} as up${id}\n  ${name(parent)} knows many ${name(child)} as down${id}`
        : `  ${name(child)} knows many ${name(parent)} as left${id}\n  ${name(parent)} knows many ${name(child)} as right${id}`;
    relations.push(`relation r${id}\n${sentences}`);
  };
  for (let index = 0; index < entities; index++) {
    const fields = Array.from({ length: 3 + Math.floor(random() * 6) }, (_, field) => `  field_${field}  text(40) optional`);
    lines.push(`entity ${name(index)}\n  id  integer key\n${fields.join('\n')}`);
    const first = index - (index % size);
    if (index > first) relate('key', index, first + Math.floor(random() * Math.min(4, index - first)));
    if (index > first + 1 && random() < 0.3) relate('key', index, first + Math.floor(random() * (index - first)));
    if (index > first + 1 && random() < 0.12) relate('pivot', index, index - 1);
    if (first > 0 && random() < 0.08) relate('key', index, Math.floor(random() * first));
    for (let hub = 0; hub < hubs; hub++) if (index > hub && random() < 0.25) relate('key', index, hub);
  }
  return `${[...lines, ...relations].join('\n\n')}\n`;
}

/** Numbers from 0 to 1, the same ones for the same seed (a linear congruential sequence). */
function sequence(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 2 ** 32;
  };
}
