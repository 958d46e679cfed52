import { type Declaration, didYouMean, type MeantSyntax, type Span } from '../notation/index.js';
import { type Resolution, wrong } from './draft.js';
import type { MeantFinding } from './model.js';
import { refer } from './references.js';

/** What can be meant so: whatever a finding stands at. */
type Owner = Extract<Declaration, { readonly name: { readonly text: string } }>;

/** The findings that a text says are meant so, each with the stretch of the text in which it is. */
export function resolveMeant(
  resolution: Resolution,
  meant: readonly MeantSyntax[],
  declarations: readonly Declaration[],
): MeantFinding[] {
  const owners = declarations.filter((declaration): declaration is Owner => 'name' in declaration && declaration.kind !== 'path');
  return meant.flatMap(({ code, of, why, span, head }): MeantFinding[] => {
    const common = { code: code.text.replaceAll('_', '-'), why: why.value, span, head };
    if (why.value.trim() === '')
      wrong(resolution, 'no-reason', why.span, `meant ${code.text}: say why, for whoever reads it next.`);
    if (of === null) return [{ ...common, within: null }];
    const owner = owners.find(({ name }) => name.text === of.owner.text);
    if (owner === undefined) {
      const near = didYouMean(
        of.owner.text,
        owners.map(({ name }) => name.text),
      );
      wrong(resolution, 'unknown-name', of.owner.span, `meant ${code.text}: there is no ${of.owner.text} in this text.${near}`);
      return [];
    }
    const kind = owner.kind;
    refer(resolution.references, of.owner, kind);
    if (of.member === null) return [{ ...common, within: owner.span }];
    const within = memberOf(owner, of.member.text, declarations);
    if (within === null) {
      const name = `${of.owner.text}.${of.member.text}`;
      wrong(resolution, 'unknown-name', of.member.span, `meant ${code.text}: there is no line for ${name} in this text.`);
      return [];
    }
    if (within.kind !== null) refer(resolution.references, of.member, within.kind, of.owner.text);
    return [{ ...common, within: within.span }];
  });
}

interface Member {
  readonly span: Span;
  /** What F2 renames; null for a check or a rule, which nothing else names. */
  readonly kind: 'field' | 'role' | 'path' | null;
}

/** The line that declares a field, a check or a rule; of a role its whole relation, of a path its line. */
function memberOf(owner: Owner, name: string, declarations: readonly Declaration[]): Member | null {
  if (owner.kind === 'entity' || owner.kind === 'mixin') {
    const line = owner.lines.find((one) => 'name' in one && one.name.text === name);
    if (line !== undefined) return { span: line.span, kind: line.kind === 'field' || line.kind === 'derived' ? 'field' : null };
  }
  for (const declaration of declarations) {
    if (declaration.kind === 'path' && declaration.entity.text === owner.name.text && declaration.name.text === name)
      return { span: declaration.span, kind: 'path' };
    if (declaration.kind !== 'relation') continue;
    const sentences = declaration.lines.filter((line) => line.kind === 'sentence');
    const isEnd = sentences.some((line) => line.subjects?.some(({ text }) => text === owner.name.text) === true);
    if (isEnd && sentences.some(({ role }) => role.text === name)) return { span: declaration.span, kind: 'role' };
  }
  return null;
}
