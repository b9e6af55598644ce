import type { PersonRecord } from '../../records/entities/people.js'

export type PersonRefRow = Pick<PersonRecord, 'id' | 'fullName' | 'username'>

/** How a person is named in answers. */
export const personRef = ({ id, fullName, username }: PersonRefRow): PersonRefRow => ({ id, fullName, username })
