import { PICK_FAULTS, TOOL_FAULTS } from '../parts/switches.js'

/** What a tool of LTI 1.3 can be told to do wrong, beside what every practice tool can. */
export const TOOL13_FAULTS = {
  ...TOOL_FAULTS,
  no_cookies: 'Set no cookies, so that only the platform’s storage can tell who comes back',
  wrong_client: 'Ask for a login under another client ID',
  wrong_redirect: 'Ask for the answer at an address that is nearly right',
  changes_hints: 'Change the hints on their way back',
  no_state: 'Send no state',
  wrong_prompt: 'Ask to show a login page',
  sends_nowhere: 'Answer an initiation with a page of its own',
  keyset_empty: 'Publish a keyset without keys',
  keyset_page: 'Publish a page where the keyset should be',
  keyset_huge: 'Publish a keyset of 10,000 keys',
  keyset_gone: 'Answer 404 where the keyset should be',
  algorithm_none: 'Ask for service tokens with an unsigned assertion',
  stale_key: 'Sign with a key that is not in the keyset',
  reports_error: 'Send everybody back with an error message',
  score_above_maximum: 'Send scores above their maximum',
  score_old_timestamp: 'Send scores as if they were made in 1970',
  score_wrong_user: 'Send scores for somebody whom nobody knows',
  score_expired_token: 'Send scores by a token that is over',
  score_ten_at_once: 'Send every score ten times at once',
  score_twice: 'Send every score twice with the same time',
  duplicate_column: 'Make a column of its own beside the one it was given, and send scores there',
  pick_unsigned: 'Answer pickers with an unsigned token',
  pick_other_deployment: 'Answer pickers in the name of another deployment',
  ...PICK_FAULTS,
} as const
export type Tool13Fault = keyof typeof TOOL13_FAULTS
