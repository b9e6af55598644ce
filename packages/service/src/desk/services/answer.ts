/** What a service answers: its media type, and the container. */
export interface ServiceAnswer {
  mediaType: string
  body: Record<string, unknown> | Record<string, unknown>[] | null
  /** 200 unless said otherwise. */
  status?: 201 | 204
  /** Address of what was made. */
  location?: string
  /** What the query of the next page says beside what was asked. */
  next?: Record<string, string>
  /** Where the differences since now can be read. */
  differences?: Record<string, string>
}
