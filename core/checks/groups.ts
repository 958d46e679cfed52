import type { Finding, Weight } from '../notation/index.js';

/** Findings that say the same of several places. */
export interface FindingGroup<F extends Pick<Finding, 'weight' | 'code'> = Finding> {
  readonly weight: Weight;
  readonly code: string;
  readonly findings: readonly [F, ...F[]];
}

/** So many findings of one sort are told one by one where there is little room. */
const FEW = 3;

/** The findings by what they say, in the order in which each sort comes first. */
export function groupsOf<F extends Pick<Finding, 'weight' | 'code'>>(findings: readonly F[]): FindingGroup<F>[] {
  const groups = new Map<string, { weight: Weight; code: string; findings: [F, ...F[]] }>();
  for (const finding of findings) {
    const key = `${finding.weight} ${finding.code}`;
    const group = groups.get(key);
    if (group === undefined) groups.set(key, { weight: finding.weight, code: finding.code, findings: [finding] });
    else group.findings.push(finding);
  }
  return Array.from(groups.values());
}

/**
 * The same where there is little room: few of a sort stand for themselves, and so does whatever is wrong, since each error
 * says another thing.
 */
export function briefGroupsOf<F extends Pick<Finding, 'weight' | 'code'>>(findings: readonly F[]): FindingGroup<F>[] {
  return groupsOf(findings).flatMap((group): FindingGroup<F>[] =>
    group.weight === 'error' || group.findings.length <= FEW
      ? group.findings.map((finding) => ({ ...group, findings: [finding] }))
      : [group],
  );
}
