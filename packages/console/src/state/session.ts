import type { SessionInfo } from '@bathyscribe/contract'
import { ServiceRefusal } from '@bathyscribe/contract'
import { computed, ref } from 'vue'
import { call } from './api'

const session = ref<SessionInfo | null>()

/** Who is signed in; null for nobody, undefined before it was asked. */
export const currentSession = computed(() => session.value)
export const isAdministrator = computed(() => session.value?.person.siteRole === 'administrator')
/** Sees the teaching side of anything at all. */
export const teachesSomething = computed(() => isAdministrator.value || session.value?.teaches === true)

export async function loadSession(): Promise<void> {
  try {
    session.value = await call('whoAmI', {})
  } catch (error) {
    if (!(error instanceof ServiceRefusal) || error.problem.status !== 401) throw error
    session.value = null
  }
}

export async function signIn(username: string, password: string): Promise<void> {
  session.value = await call('signIn', { body: { username, password } })
}

/** @returns the identity provider's page that signs out there, too; null where there is none */
export async function signOut(): Promise<string | null> {
  const { leaveAt } = await call('signOut', {})
  session.value = null
  // Drafts stay on this machine as long as their person does.
  for (const key of Object.keys(localStorage)) if (key.startsWith('bathyscribe-draft-')) localStorage.removeItem(key)
  return leaveAt
}
