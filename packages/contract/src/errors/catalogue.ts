import type { JsonProblem } from '@bathyscribe/core/intake'
import type { AddressProblem } from '@bathyscribe/core/links'
import type { ConfigurationProblem, OutcomesProblem } from '@bathyscribe/core/lti1'
import type {
  AssertionProblem,
  AuthorizationProblem,
  JwsProblem,
  KeysetProblem,
  MetadataProblem,
} from '@bathyscribe/core/lti13'
import type { OAuthProblem } from '@bathyscribe/core/oauth1'
import type { FractionProblem } from '@bathyscribe/core/scores'

/** One kind of error: the HTTP status it has where HTTP carries it, a sentence for a person, and what to do about it. */
export interface ErrorKind {
  status: number
  sentence: string
  hint: string
}

/** Kinds that core can find; the catalogue below must know every one of them. */
type CoreCode =
  | AssertionProblem['code']
  | AuthorizationProblem['code']
  | JwsProblem['code']
  | KeysetProblem['code']
  | MetadataProblem['code']
  | JsonProblem['code']
  | ConfigurationProblem['code']
  | OAuthProblem['code']
  | OutcomesProblem['code']
  | FractionProblem['code']
  | AddressProblem['code']

const kind = (status: number, sentence: string, hint: string): ErrorKind => ({ status, sentence, hint })

/** Every error this product can answer, by its code. A code is never used again for something else. */
export const ERRORS = {
  'request.invalid': kind(
    400,
    'The request is not of the form this call takes.',
    'Read the listed places; the form stands in /api/docs.',
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
  'request.too_many': kind(429, 'Too many requests in a short time.', 'Wait a minute and try again.'),

  'session.required': kind(401, 'You are not signed in.', 'Sign in, or send an API token as Bearer.'),
  'session.wrong_password': kind(
    401,
    'User name and password do not belong together.',
    'Check both; capital letters count. An administrator can set a new password.',
  ),
  'session.disabled': kind(403, 'This account is closed.', 'Ask an administrator to open it again.'),
  'session.csrf': kind(403, 'The request does not come from a page of ours.', 'Reload the page and try again.'),
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
    'The set-up code is not right, or was used before.',
    'Take the code that the service printed when it started without an administrator.',
  ),
  'setup.done': kind(
    409,
    'This service has its first administrator already.',
    'Sign in; an administrator can make others.',
  ),

  'person.not_found': kind(404, 'There is no such person.', 'List people with `bathyscribe person list`.'),
  'person.username_taken': kind(409, 'This user name is taken.', 'Choose another user name.'),
  'person.last_administrator': kind(
    409,
    'This is the last administrator.',
    'Make another person an administrator first.',
  ),
  'person.wrong_password': kind(403, 'The present password is not right.', 'Type your present password again.'),
  'course.not_found': kind(
    404,
    'There is no such course, or you are not in it.',
    'List your courses with `bathyscribe course list`.',
  ),
  'course.code_taken': kind(409, 'A course with this code exists already.', 'Choose another code.'),
  'enrolment.not_found': kind(404, 'This person is not in the course.', 'Add the person to the course first.'),
  'category.not_found': kind(
    404,
    'The course has no such category.',
    'Choose one of the course’s categories, or make it.',
  ),

  'tool.not_found': kind(
    404,
    'There is no such tool, or you may not see it.',
    'List tools with `bathyscribe tool list`.',
  ),
  'tool.key_has_blanks': kind(
    400,
    'The consumer key has blanks or invisible characters around it.',
    'Remove them; they are easily copied along.',
  ),
  'tool.secret_has_blanks': kind(
    400,
    'The shared secret has blanks or invisible characters around it.',
    'Remove them, or say that they belong to it (`acceptBlanks`).',
  ),
  'tool.already_registered': kind(
    409,
    'A tool with this key and launch address is registered already.',
    'Use that registration, or say why a second one is wanted.',
  ),
  'tool.retired': kind(409, 'The tool is retired and cannot be brought back.', 'Register it again.'),
  'tool.secret_missing': kind(
    409,
    'The registration holds no shared secret.',
    'Enter the secret before enabling the tool.',
  ),
  'tool.name_taken': kind(409, 'Another tool has this short name.', 'Choose another name.'),

  'tool.policy': kind(
    403,
    'Instructors do not register tools for their own courses here.',
    'Ask the administrator to register it; tell them what the vendor gave you.',
  ),
  'tool.not_offered': kind(
    409,
    'The tool is not offered to this course.',
    'Ask the administrator to offer it to the course.',
  ),
  'tool.needs_own_keys': kind(
    409,
    'This tool issues key and secret for each course.',
    'Get them from the tool for this course, and enter both.',
  ),
  'tool.not_waiting': kind(409, 'The tool does not wait for approval.', 'Reload; somebody else may have decided.'),
  'tool.no_proposal': kind(409, 'The tool has proposed no change.', 'Reload; somebody else may have decided.'),
  'tool.not_asked_for': kind(
    400,
    'A scope was to be granted that the tool has not asked for.',
    'Grant only scopes that the tool asks for.',
  ),
  'tool.scope_unknown': kind(
    400,
    'This is not a scope that can be granted here.',
    'Choose from the scopes in /api/docs.',
  ),
  'tool.waiting': kind(409, 'The tool waits for approval.', 'Approve or refuse it first.'),
  'tool.deleted': kind(409, 'The tool is deleted.', 'Bring it back first, if it is still wanted.'),
  'tool.not_deleted': kind(409, 'The tool is not deleted.', 'There is nothing to bring back.'),
  'tool.in_use': kind(409, 'The course still uses this tool.', 'Remove its assignments and menu entries first.'),
  'tool.replace_itself': kind(400, 'A tool cannot be replaced by itself.', 'Name another registration.'),
  'tool.replace_mismatch': kind(
    409,
    'The other registration cannot take over these links.',
    'It must be enabled, and registered for the institution or the same course.',
  ),
  'tool.incomplete': kind(
    409,
    'The registration lacks something that it needs to be enabled.',
    'Enter what is named; a draft may be incomplete.',
  ),
  'tool.version_fixed': kind(
    409,
    'This field belongs to the other version of LTI.',
    'Register the tool anew by the other version, then replace this registration by it.',
  ),
  'tool.secret_not_found': kind(404, 'There is no such secret beside the current one.', 'Reload; it may have ended.'),
  'tool.secret_unchanged': kind(
    400,
    'The new secret is the one in use already.',
    'Copy the new one from the tool, or have one made here.',
  ),
  'tool.no_secret_in_1_3': kind(
    409,
    'A tool of LTI 1.3 signs with its own keys.',
    'Rotate the keys at the tool’s end.',
  ),
  'tool.public_key_unreadable': kind(
    400,
    'The public key cannot be read.',
    'Paste a keyset as JSON, or an RSA public key as PEM.',
  ),
  'deployment.exists': kind(409, 'This course has a deployment of its own already.', 'Use that one.'),
  'deployment.not_1_3': kind(409, 'Only tools of LTI 1.3 have deployments.', 'There is nothing to add.'),
  'menu.not_found': kind(404, 'There is no such menu entry, or you may not see it.', 'Reload the course’s menu.'),
  'menu.order': kind(
    409,
    'The order does not name exactly the entries of the menu.',
    'Reload the menu; somebody else may have changed it.',
  ),
  'intake.no_configuration': kind(
    502,
    'What stands at the address is no configuration.',
    'Ask the vendor for the configuration address, or paste the values themselves.',
  ),
  'invitation.not_found': kind(404, 'There is no such invitation.', 'Start the registration again.'),
  'registration.token': kind(
    401,
    'The registration token is not known, was used before, or its hour is over.',
    'Start the registration again from the platform.',
  ),

  'assignment.not_found': kind(
    404,
    'There is no such assignment, or you may not see it.',
    'List a course’s assignments with `bathyscribe assignment list COURSE`.',
  ),
  'assignment.slug_taken': kind(
    409,
    'Another assignment of the course was given the same title at the same moment.',
    'Try again.',
  ),
  'assignment.preflight': kind(
    409,
    'Preflight found something that must be mended before publishing.',
    'Mend what is listed, then publish again.',
  ),
  'assignment.has_scores': kind(
    409,
    'Scores have come in for this assignment.',
    'Say that you want this nevertheless; the scores are kept.',
  ),
  'record.changed_meanwhile': kind(
    409,
    'Somebody else has changed this since you opened it.',
    'Reload to see their change, then make yours.',
  ),

  'launch.no_address': kind(
    409,
    'The link leads nowhere: it has no launch address.',
    'Give the assignment or its tool a launch address.',
  ),
  'launch.not_enrolled': kind(403, 'You are not in this course.', 'Ask the instructor to add you.'),
  'launch.dropped': kind(403, 'You have been dropped from this course.', 'Ask the instructor if this is a mistake.'),
  'launch.tool_suspended': kind(
    409,
    'The tool is suspended for now.',
    'Try again later; the institution has switched it off.',
  ),
  'launch.tool_retired': kind(
    409,
    'The tool is no longer used here.',
    'Ask the instructor where the work is done now.',
  ),
  'launch.tool_draft': kind(409, 'The tool is not enabled yet.', 'Ask the technologist to enable it.'),
  'launch.return_unknown': kind(
    404,
    'This return address belongs to no launch.',
    'Open the assignment again from its page.',
  ),
  'launch.no_test_learner': kind(409, 'The course has no test learner.', 'Add one with `bathyscribe person enrol`.'),
  'launch.no_instructor': kind(409, 'The course has no instructor to launch as.', 'Add an instructor to the course.'),

  'launch.hidden': kind(404, 'This entry is not shown to you.', 'Go back to the course and reload it.'),
  'launch.waiting_first_entry': kind(
    409,
    'The instructor has to open this tool first.',
    'Come back when it has been set up; your instructor sees that it waits.',
  ),
  'launch.tool_waiting': kind(409, 'The tool waits for approval.', 'Ask the technologist to look at it.'),
  'launch.tool_deleted': kind(409, 'The tool was taken away.', 'Ask the instructor where the work is done now.'),
  'login.client_unknown': kind(
    400,
    'The tool names a client ID that is not known here.',
    'Compare the client ID at the tool’s end with the exchange sheet.',
  ),
  'login.redirect_uri_unknown': kind(
    400,
    'The tool asks for the answer at an address that is not registered.',
    'Register exactly this redirect address, if the vendor names it.',
  ),
  'login.hint_unknown': kind(
    400,
    'The login hint was not written here, or is not the one of this launch.',
    'Open it again from the course.',
  ),
  'login.hint_used': kind(400, 'This launch was used before.', 'Open it again from the course.'),
  'login.hint_expired': kind(400, 'This launch took too long.', 'Open it again from the course.'),
  'login.other_person': kind(
    400,
    'This launch was begun by somebody else, or your session has ended.',
    'Sign in, and open it again from the course.',
  ),
  'login.parameter_missing': kind(400, 'The authorisation request lacks a parameter.', 'Tell the tool’s support.'),
  'login.parameter_wrong': kind(400, 'A parameter of the authorisation request is wrong.', 'Tell the tool’s support.'),
  'login.response_type': kind(400, 'The response type must be id_token.', 'Tell the tool’s support.'),
  'login.scope': kind(400, 'The scope must hold openid.', 'Tell the tool’s support.'),
  'login.value_too_long': kind(400, 'A parameter is too long.', 'Tell the tool’s support.'),

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
  'token.scope_not_granted': kind(
    400,
    'None of these scopes is granted to the tool.',
    'Ask for scopes that the exchange sheet names as granted.',
  ),

  'jwt.malformed': kind(400, 'This is not a signed JWT.', 'Send a compact JWS of three parts.'),
  'jwt.algorithm': kind(400, 'The JWT is not signed by RS256.', 'Sign with RS256; nothing else is taken.'),
  'jwt.key_id_missing': kind(400, 'The JWT names no key.', 'Send the kid of a key in the keyset.'),
  'jwt.critical_header': kind(400, 'The JWT demands extensions that are not known here.', 'Send it without crit.'),
  'jwt.key_unknown': kind(
    400,
    'The JWT names a key that is not in the keyset.',
    'Publish the key before signing with it.',
  ),
  'jwt.signature_mismatch': kind(
    400,
    'The signature of the JWT does not match.',
    'Sign with the private key that belongs to the named one.',
  ),
  'jwt.too_large': kind(400, 'The JWT is too large.', 'Send at most 16 KiB.'),
  'assertion.issuer': kind(
    401,
    'The client assertion is not issued by the client itself.',
    'Set iss and sub to the client ID.',
  ),
  'assertion.audience': kind(
    401,
    'The client assertion is meant for somebody else.',
    'Set aud to the token address of the exchange sheet.',
  ),
  'assertion.expired': kind(
    401,
    'The client assertion has expired.',
    'Set the tool’s clock by a time server; make one for each request.',
  ),
  'assertion.lifetime': kind(
    401,
    'The client assertion lives too long, or does not say how long.',
    'Set exp at most an hour ahead, and iat.',
  ),
  'assertion.issued_in_future': kind(
    401,
    'The client assertion was issued in the future.',
    'Set the tool’s clock by a time server.',
  ),
  'assertion.identifier_missing': kind(401, 'The client assertion has no identifier.', 'Send a new jti with each.'),
  'keyset.not_a_keyset': kind(
    502,
    'What stands at the keyset address is no keyset.',
    'Check the address; it must answer JSON with “keys”.',
  ),
  'keyset.no_usable_key': kind(
    502,
    'The keyset holds no key that can be used.',
    'Publish an RSA key of 2048 bits or more with a kid.',
  ),
  'keyset.too_many_keys': kind(502, 'The keyset holds too many keys.', 'Publish only the keys in use.'),
  'keyset.private_key': kind(
    502,
    'The keyset shows a private key.',
    'Replace that key at once: everybody can sign with it.',
  ),
  'keyset.none': kind(409, 'The registration holds neither a keyset address nor a key.', 'Enter one of the two.'),
  'metadata.invalid': kind(
    400,
    'The tool’s description of itself is not of the standard’s form.',
    'Mend every place that is named.',
  ),
  'json.malformed': kind(400, 'This is not JSON.', 'Mend the place that is named.'),
  'json.duplicate_name': kind(400, 'An object in the JSON holds the same name twice.', 'Keep one of the two.'),
  'json.too_deep': kind(400, 'The JSON is nested too deeply.', 'Send only what the standard has.'),
  'configuration.not_a_cartridge': kind(
    400,
    'The XML is not a tool configuration.',
    'Ask the vendor for the LTI configuration.',
  ),

  'sounding.not_found': kind(
    404,
    'There is no such sounding, or you may not see it.',
    'List soundings with `bathyscribe sounding list`.',
  ),
  'sounding.already_running': kind(
    409,
    'A sounding of this assignment is running already.',
    'Wait until it ends, or look at it.',
  ),
  'wire.not_found': kind(
    404,
    'There is no such wire entry, or you may not see it.',
    'List entries with `bathyscribe wire list`; old ones expire.',
  ),
  'setting.unknown': kind(400, 'The configuration has a fault.', 'Mend every fault that is listed, then start again.'),

  'outgoing.forbidden_address': kind(
    502,
    'The address leads to a host that this service may not call.',
    'Allow the address range in the configuration if it is meant.',
  ),
  'outgoing.name_unknown': kind(
    502,
    'The name of the host is not known.',
    'Check the address letter by letter; ask the tool’s support if it is right.',
  ),
  'outgoing.status': kind(
    502,
    'The address answers, but not with what was asked for.',
    'Open it in a browser to see what stands there; check the address.',
  ),
  'outgoing.unfolds': kind(
    502,
    'The answer unfolds to more than is read here.',
    'Check that the address is the right one.',
  ),
  'outgoing.unreachable': kind(
    502,
    'Nothing answers at the address.',
    'Check the address, and that the tool’s server is up.',
  ),
  'outgoing.timeout': kind(504, 'The answer took too long.', 'Try again; if it stays so, ask the tool’s support.'),
  'outgoing.too_large': kind(
    502,
    'The answer is larger than is read here.',
    'Check that the address is the right one.',
  ),
  'outgoing.too_many_redirects': kind(
    502,
    'The address redirects too often.',
    'Ask the tool’s support; the redirects are in the wire entry.',
  ),
  'outgoing.bad_redirect': kind(
    502,
    'The address redirects to something that cannot be followed.',
    'Ask the tool’s support; the redirect is in the wire entry.',
  ),
  'outgoing.tls': kind(
    502,
    'The secure connection could not be made.',
    'The certificate is wrong, expired or unknown: ask the tool’s support.',
  ),

  'oauth.header_missing': kind(
    401,
    'The request is not signed: it has no OAuth Authorization header.',
    'Sign it by OAuth 1.0a with the key and secret of the registration.',
  ),
  'oauth.header_malformed': kind(
    401,
    'The Authorization header is not of OAuth’s form.',
    'Write it as RFC 5849 section 3.5.1 has it.',
  ),
  'oauth.parameter_missing': kind(
    401,
    'An OAuth parameter is missing.',
    'Send key, method, signature, timestamp and nonce.',
  ),
  'oauth.parameter_repeated': kind(401, 'An OAuth parameter is sent twice.', 'Send each parameter once.'),
  'oauth.method_unsupported': kind(
    401,
    'The signature method is not the one agreed for this registration.',
    'Sign with the method that the registration’s exchange sheet names.',
  ),
  'oauth.version_unsupported': kind(401, 'The OAuth version is not 1.0.', 'Send oauth_version=1.0, or leave it out.'),
  'oauth.timestamp_malformed': kind(401, 'The timestamp is not a number of seconds.', 'Send whole seconds since 1970.'),
  'oauth.timestamp_outside_window': kind(
    401,
    'The timestamp is too far from our clock.',
    'Set the tool’s clock by a time server; send messages at once.',
  ),
  'oauth.nonce_too_long': kind(401, 'The nonce is too long.', 'Use a nonce of at most 255 characters.'),
  'oauth.nonce_used': kind(
    401,
    'This nonce was used before: the message is a repetition.',
    'Make a new nonce for each message, also when sending again.',
  ),
  'oauth.key_unknown': kind(
    401,
    'The consumer key belongs to no registration here.',
    'Compare the key with the exchange sheet of the registration.',
  ),
  'oauth.key_of_another_tool': kind(
    401,
    'The consumer key is not the one of the tool that this result belongs to.',
    'Sign with the key that came with the launch.',
  ),
  'oauth.body_hash_missing': kind(
    401,
    'The body is not signed: oauth_body_hash is missing.',
    'Send oauth_body_hash over the raw body.',
  ),
  'oauth.body_hash_mismatch': kind(
    401,
    'The body is not the one that was signed.',
    'Hash the bytes exactly as they are sent; nothing may rewrite them on the way.',
  ),
  'oauth.signature_mismatch': kind(
    401,
    'The signature does not match.',
    'Check the shared secret first, then the address that was signed.',
  ),

  'xml.not_utf8': kind(400, 'The body is not UTF-8.', 'Send XML in UTF-8.'),
  'xml.malformed': kind(400, 'The body is not well-formed XML.', 'Mend the place that is named.'),
  'xml.dtd_refused': kind(
    400,
    'The XML carries a document type, which is refused here.',
    'Send it without DOCTYPE and entities.',
  ),
  'xml.too_deep': kind(400, 'The XML is nested too deeply.', 'Send only what the standard has.'),
  'xml.too_many_elements': kind(400, 'The XML has too many elements.', 'Send only what the standard has.'),
  'outcomes.not_an_envelope': kind(400, 'The XML is not an outcomes request.', 'Send an imsx_POXEnvelopeRequest.'),
  'outcomes.wrong_namespace': kind(
    400,
    'The request is in another namespace than the outcomes service’s.',
    'Use the namespace of LTI 1.1 Basic Outcomes.',
  ),
  'outcomes.header_missing': kind(
    400,
    'The request carries no message identifier.',
    'Send imsx_messageIdentifier in the header.',
  ),
  'outcomes.operation_unsupported': kind(
    400,
    'The operation is not one of replaceResult, readResult and deleteResult.',
    'Use one of the three.',
  ),
  'outcomes.operation_ambiguous': kind(
    400,
    'The request must hold exactly one operation.',
    'Send one operation a request.',
  ),
  'outcomes.result_id_missing': kind(
    400,
    'The request names no result.',
    'Send back lis_result_sourcedid as the launch gave it.',
  ),
  'outcomes.result_id_unknown': kind(
    400,
    'The result identifier is not one that was given out here.',
    'Send back lis_result_sourcedid letter by letter.',
  ),
  'outcomes.score_missing': kind(
    400,
    'The replaceResult request carries no score.',
    'Send resultScore with textString.',
  ),
  'outcomes.too_large': kind(413, 'The request is larger than 64 KiB.', 'Send only the outcomes request.'),
  'outcomes.media_type': kind(415, 'The content type is not application/xml.', 'Send application/xml.'),
  'outcomes.tool_not_enabled': kind(
    403,
    'The tool of this result is not enabled.',
    'Ask the platform’s technologist to enable it.',
  ),

  'score.empty': kind(400, 'The score is empty.', 'Send a decimal from 0 to 1; use deleteResult to clear a score.'),
  'score.decimal_comma': kind(400, 'The score is written with a comma.', 'Write the decimal mark as a point.'),
  'score.not_a_number': kind(
    400,
    'The score is not a plain decimal number.',
    'Send a decimal from 0 to 1, without exponent.',
  ),
  'score.negative': kind(400, 'The score is negative.', 'Send a decimal from 0 to 1, without a minus sign.'),
  'score.above_one': kind(
    400,
    'The score is above 1.',
    'Send the fraction: what was reached divided by what can be reached.',
  ),
  'score.too_long': kind(400, 'The score has too many digits.', 'Send at most 64 characters.'),
  'score.not_a_learner': kind(
    400,
    'The person is not a learner of the course (any more).',
    'Nothing to mend at the tool’s end: the roster has changed.',
  ),

  'address.malformed': kind(
    400,
    'This is not an address.',
    'Give an absolute address such as https://tool.example/launch.',
  ),
  'address.scheme': kind(400, 'The address must begin with https or http.', 'Give the tool’s web address.'),
  'address.credentials': kind(400, 'The address carries a user name or password.', 'Give the address without them.'),
  'address.fragment': kind(400, 'The address carries a # part, which is never sent.', 'Give the address without it.'),
  'address.too_long': kind(400, 'The address is too long.', 'Use at most 2000 characters.'),

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
} as const satisfies Record<CoreCode, ErrorKind> & Record<string, ErrorKind>

export type ErrorCode = keyof typeof ERRORS
