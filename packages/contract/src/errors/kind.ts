/** One kind of error: the HTTP status it has where HTTP carries it, a sentence for a person, and what to do about it. */
export interface ErrorKind {
  status: number
  sentence: string
  hint: string
}

export const kind = (status: number, sentence: string, hint: string): ErrorKind => ({ status, sentence, hint })
