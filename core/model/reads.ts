import type { Name, Path, QueryLine } from '../notation/index.js';
import { type Context, memberOf } from './context.js';
import { wrong } from './draft.js';
import type { Role } from './expression.js';
import { rolesWalked } from './expression.js';
import type { PolymorphicRole, ReadPath } from './model.js';
import { resolveDerived, told } from './paths.js';

/** What the page that uses a query reads of its rows: a field, or related rows, over roles of any kind. */
export function resolveReads(context: Context, lines: readonly QueryLine[]): ReadPath[] {
  return lines.flatMap((line) => (line.kind === 'reads' ? line.paths.flatMap((path) => resolveRead(context, path)) : []));
}

/** The ways of one path: over a role to several entities one for each. A field that walks relations reads what it walks, too. */
function resolveRead(context: Context, path: Path): ReadPath[] {
  const names = namesOf(path);
  if (names === null) {
    wrong(
      context.resolution,
      'reads-path',
      path.span,
      `${context.label}: what a page reads is a path of names, as in “reads borrower.name, instrument”.`,
    );
    return [];
  }
  return step(context, names, []);
}

function namesOf({ root, steps }: Path): Name[] | null {
  if (root.kind !== 'name') return null;
  const names = steps.flatMap((one) => (one.kind === 'member' ? [one.name] : []));
  return names.length === steps.length ? [root.name, ...names] : null;
}

/** A step over a role, and whether it is one of several behind one name. */
type Walked = ReadPath['steps'][number];

function step(context: Context, names: readonly Name[], before: readonly Walked[]): ReadPath[] {
  const { resolution, label, entity } = context;
  const [name, ...rest] = names;
  if (name === undefined || entity === null) return [];
  const written = [...before.map(({ role }) => role.name), name.text].join('.');
  const member = memberOf(resolution, entity, name);
  switch (member?.kind) {
    case 'role':
    case 'polymorphic': {
      const branches: readonly Role[] = member.kind === 'role' ? [member.role] : branchesWith(context, member.role, rest);
      return branches.flatMap((role) => {
        const steps = [...before, { role, branch: member.kind === 'polymorphic' }];
        const target = resolution.entities.get(role.target);
        if (target === undefined) return [];
        if (rest.length === 0) return [{ path: written, steps, field: null, span: name.span }];
        return step({ ...context, entity: target }, rest, steps);
      });
    }
    case 'field':
    case 'derived': {
      if (rest.length > 0) {
        wrong(
          resolution,
          'nothing-behind',
          rest[0]?.span ?? name.span,
          `${label}: ${entity.name}.${name.text} is a ${told(member)}; nothing stands behind it.`,
        );
        return [];
      }
      const own: ReadPath = { path: written, steps: before, field: name.text, span: name.span };
      const derived = member.kind === 'derived' ? resolveDerived(context, entity, name) : null;
      const walked = derived === null ? [] : rolesWalked(derived.expression);
      return [
        own,
        ...walked.map(
          (roles): ReadPath => ({
            path: written,
            steps: [...before, ...roles.map((role) => ({ role, branch: false }))],
            field: null,
            span: name.span,
          }),
        ),
      ];
    }
    default:
      wrong(
        resolution,
        'unknown-read',
        name.span,
        `${label}: ${entity.name} has no field or role called ${name.text} that a page could read.`,
      );
      return [];
  }
}

/** The entities behind a role to several that have what is read of them; all of them where none is named. */
function branchesWith({ resolution }: Context, role: PolymorphicRole, [next]: readonly Name[]): readonly Role[] {
  if (next === undefined) return role.branches;
  const quiet = { ...resolution, findings: [], references: new Map() };
  const having = role.branches.filter(({ target }) => {
    const entity = resolution.entities.get(target);
    return entity !== undefined && memberOf(quiet, entity, next) !== null;
  });
  return having.length === 0 ? role.branches : having;
}
