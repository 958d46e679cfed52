import type { Context } from './context.js';
import { type EntityDraft, lineageOf, type Resolution, wrong } from './draft.js';
import { reading } from './expressions.js';
import { plainLoad, resolveLoad } from './loads.js';
import type { AlwaysLoad, Load } from './model.js';

/**
 * What comes along with every row of each entity. Always-loads that lead back to where they began would have no end:
 * they are told, with the loop, and left out; one with `once` in it ends there.
 */
export function resolveAlwaysLoads(resolution: Resolution): Map<string, AlwaysLoad[]> {
  const own = new Map<string, AlwaysLoad[]>();
  for (const entity of resolution.entities.values()) {
    const found = alwaysOf(resolution, entity);
    if (found.length > 0) own.set(entity.name, found);
  }
  const all = (name: string): AlwaysLoad[] => {
    const entity = resolution.entities.get(name);
    return entity === undefined ? [] : lineageOf(entity).flatMap((one) => own.get(one.name) ?? []);
  };
  for (const [name, loads] of own) {
    const kept = loads.filter(({ load, once }) => {
      const loop = once ? null : loopFrom(name, load, all);
      if (loop !== null)
        wrong(
          resolution,
          'always-load-loop',
          load.span,
          `${name} always loads ${load.role.name}, and that leads back to it without end: ${loop.join(' → ')}. Write “once” behind one of them, or remove one.`,
          [{ title: 'Load it once', edits: [{ span: { start: load.span.end, end: load.span.end }, text: ' once' }] }],
        );
      return loop === null;
    });
    own.set(name, kept);
  }
  return new Map(Array.from(resolution.entities.keys(), (name) => [name, all(name)]));
}

function alwaysOf(resolution: Resolution, entity: EntityDraft): AlwaysLoad[] {
  return entity.lines.flatMap((line) => {
    if (line.kind !== 'always load') return [];
    const context: Context = {
      resolution,
      reading,
      entity,
      pivot: null,
      parameters: new Map(),
      label: `${entity.name}, always load`,
      query: null,
      reach: 'all',
      resolving: [],
    };
    const loads = resolveLoad(context, entity, plainLoad(line.path, line.span));
    return loads.map((load) => ({ load, once: line.once }));
  });
}

/** The entities over which a load comes back to the one that it belongs to; null where it ends. */
function loopFrom(start: string, first: Load, always: (name: string) => readonly AlwaysLoad[]): string[] | null {
  const visit = (load: Load, chain: readonly string[]): string[] | null => {
    const { target } = load.role;
    const here = [...chain, target];
    if (target === start) return here;
    if (chain.includes(target)) return null;
    for (const deeper of load.loads) {
      const loop = visit(deeper, here);
      if (loop !== null) return loop;
    }
    for (const next of always(target)) {
      const loop = next.once ? null : visit(next.load, here);
      if (loop !== null) return loop;
    }
    return null;
  };
  return visit(first, [start]);
}
