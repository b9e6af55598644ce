/**
 * Who made a change `d`, as far as the audit of the same act says so. The moment is compared, too: in a database that was restored, transactions are numbered from the
 * beginning again.
 */
export const MADE_BY = `(select p.full_name from audit_entry x join person p on p.id = x.person_id
    where x.xact = d.xact and x.at between d.at - interval '1 minute' and d.at + interval '1 minute' order by x.id limit 1)`

/**
 * What is known of the marks of `a`, a published assignment with its tool `r` and its unit `u`: each part is read by an index of the link's own, so that many links cost what they are.
 * The same as core's `proofOf` judges one by one; a test holds the two together.
 */
export const PROOF_PARTS = `
left join unit_item i on i.assignment_id = a.id left join unit u on u.id = i.unit_id
left join lateral (select max(l.at) filter (where l.kind = 'proof') as proof, max(l.at) filter (where l.kind = 'failure') as failure,
    max(l.at) filter (where l.kind = 'complaint') as complaint, max(l.at) filter (where l.kind = 'scored') as scored, max(l.at) filter (where l.kind = 'recorded') as recorded
  from launch_evidence l where l.assignment_id = a.id) e on true
left join lateral (select max(v.last_at) as at from visit v where v.assignment_id = a.id) v on true
left join lateral (
  select s.at, exists (select 1 from visit w where w.assignment_id = a.id and w.person_id = s.person_id) as visited,
    case when s.fraction is null then n.points is null
      else n.points is not null and n.fraction is not null and (n.counting = 'mean' or n.fraction = s.fraction) and n.points = points_of(n.fraction, a.points) end as agrees
  from (select * from result where assignment_id = a.id and score_id is not null order by score_id desc limit 1 offset 0) n join score s on s.id = n.score_id) n on true
left join lateral (select s.at from score s where s.assignment_id = a.id and s.outcome = 'refused' order by s.id desc limit 1) refused on true
left join lateral (select greatest(
    (select d.at from proof_change d where d.assignment_id = a.id and d.what <> 'points' order by d.at desc limit 1),
    (select d.at from proof_change d where d.registration_id = r.id and (a.launch_url is null or d.what <> 'tool_launch_address') order by d.at desc limit 1)) as at,
    (select d.at from proof_change d where d.assignment_id = a.id and d.what = 'points' order by d.at desc limit 1) as points_at) change on true
left join lateral (select greatest(e.proof, case when n.visited then n.at end) as proof, greatest(n.at, e.scored) as scored,
    greatest(e.recorded, case when n.agrees then n.at end) as recorded, '-infinity'::timestamptz as never) m on true`

/** Whether all six marks are proven now. */
export const IS_PROVEN = `(
  r.state = 'enabled' and (r.version = '1.3' or r.secret_sealed is not null)
  and coalesce(a.launch_url, r.launch_url) is not null
  and (r.first_entry <> 'link' or a.content is not null or exists (select 1 from first_entry f where f.registration_id = r.id and f.course_id = a.course_id and f.link_id = a.id))
  and a.published_at is not null and (u.id is null or u.published) and (a.opens_at is null or a.opens_at <= now()) and (a.closes_at is null or a.closes_at > now())
  and coalesce(m.proof, v.at) is not null and (e.failure is null or m.proof > e.failure)
  and (e.complaint is null or m.proof > e.complaint or v.at > e.complaint)
  and greatest(m.proof, v.at) > coalesce(change.at, m.never)
  and m.scored is not null and m.scored > coalesce(refused.at, m.never) and m.scored > coalesce(change.at, m.never)
  and m.recorded is not null and (n.at is null or n.agrees or e.recorded > n.at)
  and m.recorded > coalesce(greatest(change.at, change.points_at), m.never)) is true`
