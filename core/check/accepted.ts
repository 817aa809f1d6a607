import type { PortalDefinition } from '../definition/definition';
import type { Finding } from './finding';

export type Accepted = Finding & { reason: string };

/** Tells the findings that are open from those that the definition says are meant so. */
export function splitAccepted(
  findings: readonly Finding[],
  definition: PortalDefinition,
): { open: Finding[]; accepted: Accepted[] } {
  const reasons = new Map(definition.accepted?.map((each) => [each.finding, each.reason]));
  return {
    open: findings.filter((finding) => !reasons.has(finding.id)),
    accepted: findings.flatMap((finding) =>
      reasons.has(finding.id) ? [{ ...finding, reason: reasons.get(finding.id)! }] : [],
    ),
  };
}

/** Findings of the same kind for the same role: one reason often holds for all of them. */
export function alike(finding: Finding, findings: readonly Finding[]): Finding[] {
  return finding.place.role === undefined
    ? [finding]
    : findings.filter((each) => each.kind === finding.kind && each.place.role === finding.place.role);
}
