import { saidOf, type Said } from '@bathyscribe/core/checks'

/** What there can be evidence of: one row each of an assignment, the newest. */
export type EvidenceKind = 'proof' | 'failure' | 'complaint' | 'scored' | 'recorded'

/** What an event shows, and what it says of it. */
export type Sign = readonly [EvidenceKind, Said | null]

/** @param row columns of the row, and `from` where `signsInJson` are given */
export const noteEvidence = (row: string): string => `
insert into launch_evidence (assignment_id, kind, at, evidence_kind, evidence_id, person_name, said)
select ${row} as x (kind text, said jsonb)
on conflict (assignment_id, kind) do update set at = excluded.at, evidence_kind = excluded.evidence_kind, evidence_id = excluded.evidence_id,
  person_name = excluded.person_name, said = excluded.said
where launch_evidence.at <= excluded.at`

export const signsInJson = (signs: readonly Sign[]): string =>
  JSON.stringify(signs.map(([kind, said]) => ({ kind, said: said && saidOf(said) })))
