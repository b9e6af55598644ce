/** SQL: whether an assignment `a`, which is not for everyone, was released to a person, by name or by group. @param person SQL of the person's identifier */
export const RELEASED_TO = (person: string) => `(
  exists (select 1 from assignment_person t where t.assignment_id = a.id and t.person_id = ${person})
  or exists (select 1 from assignment_group t join group_member m on m.group_id = t.group_id where t.assignment_id = a.id and m.person_id = ${person}))`

/** SQL: whether an assignment `a` is for a person. */
export const IS_FOR = (person: string) => `(a.for_everyone or ${RELEASED_TO(person)})`
