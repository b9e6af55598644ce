/**
 * Who made a change `d`, as far as the audit of the same act says so. The moment is compared, too: in a database that was restored, transactions are numbered from the
 * beginning again.
 */
export const MADE_BY = `(select p.full_name from audit_entry x join person p on p.id = x.person_id
    where x.xact = d.xact and x.at between d.at - interval '1 minute' and d.at + interval '1 minute' order by x.id limit 1)`

const IN_COURSES = 'assignment_id in (select id from assignment where course_id = any($2))'

/**
 * Every published assignment of an open course with whether all six marks are proven now; of courses `$2` where `ofSome`, of all otherwise.
 * The same as core's `proofOf` judges one by one; a test holds the two together. What few links need is asked only of those.
 */
export const judged = (ofSome: boolean) => `
select a.id, a.updated_at, (
  r.state = 'enabled' and (r.version = '1.3' or r.secret_sealed is not null)
  and coalesce(a.launch_url, r.launch_url) is not null
  and (r.first_entry <> 'link' or a.content is not null or exists (select 1 from first_entry f where f.registration_id = r.id and f.course_id = a.course_id and f.link_id = a.id))
  and a.published_at is not null and (u.id is null or u.published) and (a.opens_at is null or a.opens_at <= now()) and (a.closes_at is null or a.closes_at > now())
  -- A sounding saw it taken after everything else; otherwise a score of somebody who had entered, or a visit without a complaint, may prove it, too.
  and (e.proof > greatest(e.failure, e.complaint, m.changed)
    or exists (select 1 from (
        select v.at as entered, greatest(e.proof, case when exists (select 1 from visit w where w.assignment_id = a.id and w.person_id = n.person_id) then n.at end) as taken
        from (select max(last_at) as at from visit where assignment_id = a.id) v) l
      where (e.failure is null or l.taken > e.failure) and (e.complaint is null or greatest(l.taken, l.entered) > e.complaint)
        and greatest(l.taken, l.entered) > m.changed))
  and m.scored > m.changed and m.recorded > greatest(m.changed, own.points_at) and (n.at is null or n.agrees or e.recorded > n.at)
  and m.scored > coalesce((select s.at from score s where s.assignment_id = a.id and s.outcome = 'refused' order by s.id desc limit 1), '-infinity')
) is true as proven
from assignment a join course c on c.id = a.course_id and c.state = 'open' join registration r on r.id = a.registration_id
left join unit_item i on i.assignment_id = a.id left join unit u on u.id = i.unit_id
left join (select assignment_id, max(at) filter (where kind = 'proof') as proof, max(at) filter (where kind = 'failure') as failure, max(at) filter (where kind = 'complaint') as complaint,
    max(at) filter (where kind = 'scored') as scored, max(at) filter (where kind = 'recorded') as recorded
  from launch_evidence ${ofSome ? `where ${IN_COURSES}` : ''} group by 1) e on e.assignment_id = a.id
left join (select assignment_id, max(at) filter (where what <> 'points') as at, max(at) filter (where what = 'points') as points_at
  from proof_change where assignment_id is not null ${ofSome ? `and ${IN_COURSES}` : ''} group by 1) own on own.assignment_id = a.id
left join (select registration_id, max(at) as at, max(at) filter (where what <> 'tool_launch_address') as but_address
  from proof_change where registration_id is not null group by 1) of_tool on of_tool.registration_id = r.id
left join lateral (
  select s.at, s.person_id, case when s.fraction is null then n.points is null
    else n.points is not null and n.fraction is not null and (n.counting = 'mean' or n.fraction = s.fraction) and n.points = points_of(n.fraction, a.points) end as agrees
  from (select * from result where assignment_id = a.id and score_id is not null order by score_id desc limit 1 offset 0) n join score s on s.id = n.score_id) n on true
left join lateral (select greatest(n.at, e.scored) as scored, greatest(e.recorded, case when n.agrees then n.at end) as recorded,
  greatest(own.at, case when a.launch_url is null then of_tool.at else of_tool.but_address end, '-infinity') as changed) m on true
where a.state = 'published' ${ofSome ? 'and a.course_id = any($2)' : ''}`
