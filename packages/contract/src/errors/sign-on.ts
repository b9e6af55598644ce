import { kind } from './kind.js'

/** Signing in with accounts of an identity provider. */
export const SIGN_ON_ERRORS = {
  'sign_on.provider_not_found': kind(
    404,
    'There is no such identity provider here, or it is switched off.',
    'Go back to the sign-in page; administrators list them with `bathyscribe sign-on list`.',
  ),
  'sign_on.handle_taken': kind(409, 'Another identity provider has this short name.', 'Choose another short name.'),
  'sign_on.issuer_taken': kind(
    409,
    'An identity provider with this issuer is here already.',
    'Change that one; `bathyscribe sign-on list` shows it.',
  ),
  'sign_on.plain_http': kind(
    400,
    'An identity provider outside of this machine must be reached by https.',
    'Give its https address.',
  ),
  'sign_on.provider_away': kind(
    502,
    'The identity provider does not answer as it should.',
    'Try again in a moment; administrators look into it with `bathyscribe sign-on check`.',
  ),
  'sign_on.not_a_provider': kind(
    422,
    'What is at this issuer is no identity provider that can be used here.',
    'Copy the issuer exactly from the provider’s description (…/.well-known/openid-configuration).',
  ),
  'sign_on.begun_elsewhere': kind(
    400,
    'This sign-in was not begun in this browser, was finished already, or took longer than ten minutes.',
    'Begin again on the sign-in page, and allow cookies.',
  ),
  'sign_on.refused': kind(
    403,
    'The identity provider did not sign you in.',
    'Try again; if it stays so, ask who runs that provider.',
  ),
  'sign_on.answer_wrong': kind(
    502,
    'What the identity provider answered does not hold, so nobody was signed in by it.',
    'Try again; if it stays so, an administrator looks into it with `bathyscribe sign-on check`.',
  ),
  'sign_on.not_known': kind(
    403,
    'There is no account here for you.',
    'Ask your instructor or an administrator to add you; who has an account here already ties it on the page *Your account*.',
  ),
  'sign_on.several': kind(
    403,
    'Several accounts here could be yours.',
    'Ask an administrator to tell them apart, or tie yours on the page *Your account*.',
  ),
  'sign_on.tie_first': kind(
    403,
    'This is an administrator’s account: it is never given out by an address or a name alone.',
    'Sign in with the password once, then tie it on the page *Your account*.',
  ),
  'sign_on.other_subject': kind(
    403,
    'Your account here is tied to another account at this identity provider.',
    'Sign in with that one, or ask an administrator to untie it.',
  ),
  'sign_on.tied_already': kind(
    409,
    'This account at the identity provider is tied to another account here.',
    'Sign in by it to see which one, or ask an administrator to untie it.',
  ),
  'sign_on.claim_missing': kind(
    403,
    'The identity provider did not say who you are in the way that is asked for here.',
    'Ask an administrator: the named claim has to be released to this service.',
  ),
  'sign_on.email_unverified': kind(
    403,
    'The identity provider has not verified your email address.',
    'Verify it there, then sign in again.',
  ),
  'sign_on.other_person': kind(
    403,
    'That was somebody else’s account.',
    'Sign in at the provider with the account that yours is tied to.',
  ),
  'sign_on.not_fresh': kind(
    403,
    'The identity provider does not say that you have just signed in there.',
    'Sign in there again when it asks; if it never asks, confirm with your password, or ask who runs the provider.',
  ),
  'sign_on.not_tied': kind(
    404,
    'The account is not tied to this identity provider.',
    'Reload the page; `bathyscribe sign-on accounts NAME` shows what it is tied to.',
  ),
  'sign_on.last_way': kind(
    409,
    'The account has no password: without this it could not be signed in to at all.',
    'Set a password first; an administrator makes a link for it with `bathyscribe person invite NAME`.',
  ),
} as const
