import { onScopeDispose } from 'vue'
import { isNavigationFailure, NavigationFailureType, useRouter, type RouteLocationRaw } from 'vue-router'

/**
 * Goes on to the page that an act leads to, unless whoever began the act has gone elsewhere while it was on its way: nobody
 * is taken from a page that they chose.
 * @returns what goes there and says whether it did
 */
export function useNextPage(): (to: RouteLocationRaw) => Promise<boolean> {
  const router = useRouter()
  const here = router.currentRoute.value.path
  let isLeft = false
  const forgetBefore = router.beforeEach((to) => {
    isLeft = to.path !== here
  })
  const forgetAfter = router.afterEach((_to, _from, failure) => {
    if (isNavigationFailure(failure, NavigationFailureType.aborted)) isLeft = false
  })
  onScopeDispose(() => {
    forgetBefore()
    forgetAfter()
  })
  return async (to) => {
    if (isLeft) return false
    await router.push(to)
    return true
  }
}
