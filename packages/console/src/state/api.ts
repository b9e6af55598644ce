import {
  createClient,
  type CourseFile,
  ServiceRefusal,
  type CallAnswer,
  type CallInput,
  type OperationName,
} from '@bathyscribe/contract'
import { useQuery } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter, type Ref } from 'vue'
import { askPassword } from './confirming'

let csrfToken = ''

const client = createClient({
  baseUrl: '',
  headers: (method): Record<string, string> => (method === 'GET' ? {} : { 'x-csrf-token': csrfToken }),
})

/** Calls the service as the person who is signed in; where it wants the password once more, asks for it and calls again. */
export async function call<N extends OperationName>(name: N, input: CallInput<N>): Promise<CallAnswer<N>> {
  const answer = await client.call(name, input).catch(async (reason: unknown) => {
    const isWanted = reason instanceof ServiceRefusal && reason.problem.code === 'session.confirm_needed'
    if (!isWanted || !(await askPassword())) throw reason
    return client.call(name, input)
  })
  if (name === 'whoAmI' || name === 'signIn') csrfToken = (answer as CallAnswer<'whoAmI'>).csrfToken ?? ''
  return answer
}

/** Uploads a file into a course. @throws ServiceRefusal */
export function upload(course: string, file: File): Promise<CourseFile> {
  return client.upload(course, file, file.name)
}

/**
 * Reads by a call and keeps the answer up to date: by its name and input it is found again when something changes.
 * @param input may be reactive; undefined waits
 */
export function useCall<N extends OperationName>(
  name: N,
  input: MaybeRefOrGetter<CallInput<N> | undefined>,
): Reading<CallAnswer<N>> {
  const query = useQuery({
    queryKey: [name, computed(() => toValue(input))],
    queryFn: () => call(name, toValue(input)!),
    enabled: computed(() => toValue(input) !== undefined),
    placeholderData: (before: unknown) => before as never,
    // Answers are replaced, never changed in place: thousands of values need no watching one by one.
    shallow: true,
  })
  // The library's own types cannot see through an answer that hangs on the call's name.
  return { data: query.data, error: query.error, refetch: query.refetch }
}

/** An answer as it stands now, and what went wrong last. */
export interface Reading<A> {
  data: Ref<A | undefined>
  error: Ref<Error | null>
  refetch: () => Promise<unknown>
}

/** What to tell a person of an error: the sentence, the hint, and every place that is wrong. */
export interface Told {
  sentence: string
  hint: string
  faults: { path: string; message: string }[]
  code: string
}

export function tell(error: unknown): Told {
  if (error instanceof ServiceRefusal) {
    const { title, hint, detail, faults, code } = error.problem
    return { sentence: detail && !faults ? `${title} (${detail})` : title, hint, faults: faults ?? [], code }
  }
  return {
    sentence: 'The service cannot be reached.',
    hint: 'Check your connection and try again; what you typed is still here.',
    faults: [],
    code: 'unreached',
  }
}
