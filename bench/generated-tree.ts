/** A tree of a given size, the same on each call: entities with fields and checks, relations of every form, scopes, queries. */
export function generatedTree(entities: number, relations: number): string {
  let state = 12345;
  const below = (limit: number) => {
    state = (Math.imul(state, 1103515245) + 12345) >>> 0;
    return Math.floor((state / 2 ** 32) * limit);
  };
  const blocks = [`tree 'Generated, ${entities} entities'\n  clock '2031-04-12 09:00'`, `choice Shade\n  'light'\n  'dark'`];
  for (let index = 0; index < entities; index++) {
    blocks.push(
      `entity Thing${index}\n  id integer key\n  name text(80)\n  code text(12) unique\n  made date default today\n  weight decimal(8, 2) optional\n  shade Shade default 'light'\n  active boolean default true\n  label = name || ' ' || code\n  order by name\n  check heavy_${index}: weight is null or weight > 0`,
    );
  }
  for (let index = 0; index < relations; index++) {
    const child = 1 + below(entities - 1);
    // Most relations are between neighbours, and a few entities are pointed at by many, as in real schemas.
    const parent = below(10) === 0 ? below(Math.max(1, Math.floor(entities / 50))) : Math.max(0, child - 1 - below(20));
    if (index % 10 === 0) {
      blocks.push(
        `relation pair_${index}\n  Thing${child} knows many Thing${parent} as many_${index}\n  Thing${parent} knows many Thing${child} as back_${index}\n  stored in table pairs_${index} (a_id, b_id)\n    since date default today`,
      );
    } else {
      blocks.push(
        `relation link_${index}\n  Thing${child} knows ${index % 3 === 0 ? 'at most one' : 'one'} Thing${parent} as one_${index}\n  Thing${parent} knows many Thing${child} as many_${index}`,
      );
      if (index % 5 === 0) {
        blocks.push(`scope scope_${index}\n  Thing${child} where one_${index}.active and made < today`);
        blocks.push(
          `query query_${index}(since date)\n  from Thing${parent}\n  where any(many_${index}[made >= :since])\n  load many_${index} (name)\n  order by name`,
        );
      }
    }
  }
  return `${blocks.join('\n\n')}\n`;
}
