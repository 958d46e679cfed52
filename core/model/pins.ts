import type { Name, WallSyntax } from '../notation/index.js';
import { leadingTo } from './command-rows.js';
import { type Context, memberNames, memberOf } from './context.js';
import { type EntityDraft, findEntity, type Resolution, scopeOwners, unknownMember, wrong } from './draft.js';
import type { Role } from './expression.js';
import { fitTo, reading, resolveExpression } from './expressions.js';
import type { Pin, PolymorphicRole } from './model.js';
import { branchTo, told } from './paths.js';
import { refer } from './references.js';

type PinLine = Extract<WallSyntax['lines'][number], { readonly kind: 'pin' }>;

/** What a wall fills into new rows of each entity: a pin of a mixin or a base stands for all that are of it. */
export function resolvePins(resolution: Resolution, syntax: WallSyntax, label: string): ReadonlyMap<string, readonly Pin[]> {
  const pins = new Map<string, Pin[]>();
  const writes = syntax.on !== 'read';
  for (const line of syntax.lines) {
    if (line.kind !== 'pin') continue;
    if (!writes)
      wrong(
        resolution,
        'pin-on-read',
        line.span,
        `${label} keeps rows from being read, and a pin is about what is written. Leave “on read” out, or put the pin into a wall on write.`,
      );
    const isMixin = resolution.mixins.has(line.entity.text);
    if (isMixin) refer(resolution.references, line.entity, 'mixin');
    else if (findEntity(resolution, line.entity, `${label}, pin`) === null) continue;
    const before = resolution.findings.length;
    for (const entity of resolution.entities.values()) {
      if (!writes || !scopeOwners(entity).includes(line.entity.text)) continue;
      const pin = pinOf(resolution, entity, line, `${label}, ${line.entity.text}.${line.member.text}`);
      if (pin !== null) pins.set(entity.name, [...(pins.get(entity.name) ?? []), pin]);
      // What is wrong of one is wrong of all in the same way.
      else if (resolution.findings.length > before) break;
    }
  }
  return pins;
}

function pinOf(resolution: Resolution, entity: EntityDraft, { member: name, value, span }: PinLine, label: string): Pin | null {
  const member = pinned(resolution, entity, name, label);
  if (member === null) return null;
  const context: Context = {
    resolution,
    reading,
    entity: null,
    pivot: null,
    parameters: new Map(),
    label,
    query: null,
    reach: 'all',
    me: 'at hand',
    resolving: [],
  };
  const resolved = resolveExpression(context, value);
  if (resolved === null) return null;
  if (member.kind === 'field') {
    const fitted = fitTo(context, resolved, member.field.type, 'set to');
    return fitted === null ? null : { member, value: fitted, span };
  }
  const { type } = resolved;
  const to = type.kind === 'row' ? resolution.entities.get(type.entity) : undefined;
  const role = to === undefined ? null : leadingFrom(resolution, member, to);
  if (role === null)
    return wrong(
      resolution,
      'type-mismatch',
      value.span,
      `${label} leads to ${targetsOf(member).join(', ')}, and is pinned to something else. Pin it to such a row, as in “me” or “me.branch”.`,
    );
  return { member: { kind: 'role', role }, value: resolved, span };
}

type PinnedRole =
  | { readonly kind: 'role'; readonly role: Role }
  | { readonly kind: 'polymorphic'; readonly role: PolymorphicRole };

function leadingFrom(resolution: Resolution, member: PinnedRole, to: EntityDraft): Role | null {
  return member.kind === 'role' ? leadingTo(member.role, to) : branchTo(resolution, member.role, to);
}

function targetsOf(member: PinnedRole): readonly string[] {
  return member.kind === 'role' ? [member.role.target] : member.role.branches.map(({ target }) => target);
}

/** The field, or the role, whose key a row holds itself. */
function pinned(resolution: Resolution, entity: EntityDraft, name: Name, label: string) {
  const member = memberOf(resolution, entity, name);
  if (member === null)
    return unknownMember(
      resolution,
      entity,
      name,
      label,
      `field or role of ${entity.name} called`,
      memberNames(resolution, entity),
    );
  if (member.kind === 'field' && member.field.physical.generated === null) return member;
  const isHeld = ({ way }: Role) => way.kind === 'key';
  if (member.kind === 'role' && isHeld(member.role)) return member;
  if (member.kind === 'polymorphic' && member.role.branches.every(isHeld)) return member;
  const what =
    member.kind === 'role' || member.kind === 'polymorphic'
      ? 'leads to rows that hold its key themselves'
      : `is a ${told(member)}, and is computed`;
  return wrong(resolution, 'computed-member', name.span, `${label} ${what}: there is nothing in the row to fill.`);
}
