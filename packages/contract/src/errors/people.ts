import { kind } from './kind.js'

/** People, sessions, tokens, and requests as such. */
export const PEOPLE_ERRORS = {
  'request.invalid': kind(
    400,
    'The request is not of the form this call takes.',
    'Correct the listed places; the expected form is in /api/docs.',
  ),
  'request.not_json': kind(400, 'The request body is not JSON.', 'Send JSON with the content type application/json.'),
  'request.too_large': kind(413, 'The request is larger than this call takes.', 'Send less at once.'),
  'request.media_type': kind(
    415,
    'The content type is not one this call takes.',
    'Use the content type that the call documents.',
  ),
  'request.not_found': kind(
    404,
    'There is nothing at this address.',
    'Check the address; the calls are listed in /api/docs.',
  ),
  'request.too_many_streams': kind(
    429,
    'Too many windows of yours listen for changes.',
    'Close some of them; the others go on.',
  ),
  'request.too_many': kind(
    429,
    'Too many requests in a short time.',
    'Wait a minute and try again; after very many uploads, an hour.',
  ),
  'session.required': kind(401, 'You are not signed in.', 'Sign in, or send an API token as Bearer.'),
  'session.wrong_password': kind(
    401,
    'User name and password do not belong together.',
    'Check both; capital letters count. An administrator can set a new password. Who signs in by an identity provider uses its button, and an API token on the command line (`bathyscribe person sign-in --token-file FILE`).',
  ),
  'session.too_many_tries': kind(
    429,
    'This account had too many wrong passwords lately; this one was not looked at.',
    'Wait for the time that is named, then try again. From a place where you have signed in before only your own mistakes count.',
  ),
  'session.disabled': kind(403, 'This account is closed.', 'Ask an administrator to open it again.'),
  'session.csrf': kind(403, 'The request does not come from a page of ours.', 'Reload the page and try again.'),
  'session.confirm_needed': kind(
    403,
    'This needs your password once more.',
    'Give it where the console asks, or by POST /api/session/confirm; it then holds for a while.',
  ),
  'token.unknown': kind(
    401,
    'This API token is not known, has expired, or was revoked.',
    'Make a new one on your account page, or sign in again with `bathyscribe person sign-in`.',
  ),
  'token.scope': kind(
    403,
    'This API token does not carry the scope that the call needs.',
    'Make a token with that scope.',
  ),
  'access.denied': kind(403, 'Your role does not allow this.', 'Ask an instructor of the course or an administrator.'),
  'setup.code_wrong': kind(
    403,
    'The set-up code is wrong, or was already used.',
    'Take the code that the service printed when it started without an administrator.',
  ),
  'setup.done': kind(
    409,
    'This service has its first administrator already.',
    'Sign in; an administrator can make others.',
  ),
  'person.not_found': kind(404, 'There is no such person.', 'List people with `bathyscribe person list`.'),
  'person.username_taken': kind(409, 'This user name is taken.', 'Choose another user name.'),
  'person.not_double': kind(
    409,
    'This account was not launched under that name beside another one.',
    'See `bathyscribe person doubles`, and give the name exactly.',
  ),
  'person.open': kind(
    409,
    'The account is open.',
    'Close it first, with `bathyscribe person close`: what is removed does not come back.',
  ),
  'person.other_name': kind(
    409,
    'The user name given is not the one of this account.',
    'Read the account’s user name again with `bathyscribe person show`.',
  ),
  'person.of_course': kind(
    409,
    'This is a course’s test learner, who is nobody.',
    'Nothing has to be removed; the test learner goes with the course.',
  ),
  'person.last_administrator': kind(
    409,
    'This is the last administrator.',
    'Make another person an administrator first.',
  ),
  'person.link_over': kind(
    410,
    'This link was used already, has run out, or was replaced by a newer one.',
    'Ask for a new one; an administrator makes it with `bathyscribe person invite NAME`.',
  ),
  'person.password_weak': kind(
    400,
    'This password is among the first that are guessed.',
    'Take several words that do not belong together, or have a password manager make one. Names and usual patterns do not help.',
  ),
  'person.wrong_password': kind(403, 'The current password is wrong.', 'Type your present password again.'),
  'record.changed_meanwhile': kind(
    409,
    'Somebody else has changed this since you opened it.',
    'Reload to see their change, then make yours.',
  ),
  'token.request': kind(
    400,
    'The token request is not of the standard’s form.',
    'Send grant_type, client_assertion_type, client_assertion and scope as RFC 7523 has it.',
  ),
  'token.grant_type': kind(400, 'Only client_credentials is granted here.', 'Send grant_type=client_credentials.'),
  'token.client_unknown': kind(
    401,
    'The client assertion names no tool that is known here.',
    'Compare the client ID with the exchange sheet.',
  ),
  'token.client_disabled': kind(401, 'The tool is not enabled.', 'Ask the platform’s technologist to enable it.'),
  'token.assertion_used': kind(
    401,
    'This client assertion was used before.',
    'Make a new one, with a new jti, for each request.',
  ),
  'token.grant': kind(
    400,
    'The code or refresh token is invalid or has expired.',
    'Ask the instructor to connect the tool again.',
  ),
  'token.scope_not_granted': kind(
    400,
    'None of these scopes is granted to the tool.',
    'Ask for scopes that the exchange sheet names as granted.',
  ),
  'mail.off': kind(
    409,
    'This service sends no mail.',
    'Ask the administrator to set the mail server’s address (smtpUrl) in the configuration.',
  ),
  'mail.no_address': kind(
    409,
    'Your account has no e-mail address.',
    'Ask an administrator to enter one, then try again.',
  ),
  'mail.not_taken': kind(
    502,
    'The mail server did not take the message.',
    'Read what it said; the administrator checks its address, name and password.',
  ),
  'setting.unknown': kind(
    400,
    'The configuration has unknown or invalid settings.',
    'Fix every fault that is listed, then start again.',
  ),
  'request.head_too_large': kind(
    431,
    'The head of the request is larger than is read here.',
    'Shorten the address; if it is not long, delete this site’s cookies in your browser.',
  ),
  'request.too_slow': kind(408, 'The request did not come in time.', 'Send it again.'),
  'request.malformed': kind(
    400,
    'What came is not a request of HTTP/1.1.',
    'Ask by http, not https, where the service has no certificate of its own; otherwise fix the program that asks.',
  ),
  'request.cut_off': kind(400, 'The request broke off before its end.', 'Send it again.'),
  'service.too_slow': kind(
    503,
    'This took longer than one request may.',
    'Ask for less: name a course, a tool or a shorter time; then try again.',
  ),
  'service.busy': kind(503, 'There is more to do at once than can be done.', 'Try again in a few seconds.'),
  'service.database_unavailable': kind(
    503,
    'The records cannot be reached for the moment.',
    'Nothing was lost; try again in a few seconds.',
  ),
  'service.fault': kind(
    500,
    'Something went wrong on our side.',
    'Try again; if it stays so, tell the administrator the request’s identifier.',
  ),
} as const
