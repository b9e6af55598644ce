import { inbound, refuseByRoute, type Message } from './message.js'
import * as authorization from './messages/authorization.js'
import * as connected from './messages/connected-courses.js'
import * as outcome from './messages/outcome.js'
import * as picked from './messages/picked.js'
import type { PickedCall } from './messages/picked-answer.js'
import * as registration from './messages/registration.js'
import * as change from './messages/registration-change.js'
import * as returned from './messages/return.js'
import { revoked } from './messages/revocation.js'
import * as score from './messages/score.js'
import * as service from './messages/service.js'
import { served, type ServiceCall } from './messages/service-call.js'
import * as token from './messages/token.js'
import * as client from './steps/client-assertion.js'

/**
 * Every message that comes in by the protocols, and what is done with it, in this order. `about` and `refuse` hold from where they stand: what the wire entry
 * says, and in which form a refusal is answered. A message more is a file of its own, and a row here.
 */
export const INBOUND = {
  /** A score, or a question for one: LTI 1.1.1 section 6. */
  outcome: inbound<outcome.OutcomeCall, outcome.OutcomeAnswer>('outcome', 'outcome', outcome.aboutOutcome, outcome.refuseCall)
    .read(outcome.envelope)
    .identify(outcome.linkOfResult).about(outcome.aboutResult)
    .identify(outcome.senderOf).about(outcome.aboutSender).refuse(outcome.refuseSigned)
    .verify(outcome.signatureOrToken)
    .fresh(outcome.oauthNonce, outcome.nonceUsed).refuse(outcome.refuseKnown)
    .may(outcome.wellFormed)
    .may(outcome.assignmentOfResult).about(outcome.aboutScore).refuse(outcome.refuseScore)
    .may(outcome.toolAtWork)
    .may(outcome.scoredLearner)
    .take(outcome.outcome),

  /** A score: Assignment and Grade Services 2.0 section 3.4. */
  score: inbound<score.ScoreCall, undefined>('score', 'score', service.aboutCall, refuseByRoute)
    .read(score.scoreSent)
    .verify(service.serviceToken)
    .may(service.callerInCourse).about(service.aboutTool)
    .may(service.serviceOpen).about(service.aboutCaller)
    .may(score.ownColumn)
    .may(score.wholeScore)
    .may(score.notAhead)
    .may(score.personOfCourse).about(score.aboutScored).refuse(score.refuseScored)
    .may(score.learnerOfCourse)
    .take(score.score),

  /** Line items, results, rosters, groups, files: each a service of a course. */
  service: inbound<ServiceCall, Awaited<ReturnType<ServiceCall['serve']>>>('service', 'service', service.aboutCall, refuseByRoute)
    .verify(service.serviceToken)
    .may(service.callerInCourse).about(service.aboutTool)
    .may(service.serviceOpen).about(service.aboutCaller)
    .take(served),

  /** The courses of a connection (docs/connections.md). */
  connectedCourses: inbound<service.Call, Awaited<ReturnType<ServiceCall['serve']>>>('connected courses', 'service', service.aboutCall, refuseByRoute)
    .verify(service.serviceToken)
    .may(connected.standingConnection).about(connected.aboutConnection)
    .take(connected.connectedCourses),

  /** A service token: Security Framework 1.0 section 4.1; RFC 6749, RFC 7523. */
  token: inbound<client.Form, token.TokenAnswer>('token', 'token', token.aboutForm, token.refuseRequest)
    .identify(client.clientNamed).about(token.aboutClient)
    .verify(token.grantType)
    .verify(client.assertionGiven)
    .verify(client.clientAtWork)
    .verify(client.assertionSigned)
    .verify(client.assertionClaims)
    .fresh(client.assertionNonce, client.assertionUsed)
    .may(token.connectionGranted)
    .may(token.scopesGranted)
    .take(token.serviceTokenGranted),

  /** A connection given back by its tool: RFC 7009. */
  revocation: inbound<client.Form, token.TokenAnswer>('revocation', 'token', token.aboutForm, token.refuseRequest)
    .identify(client.clientNamed).about(token.aboutClient)
    .verify(client.assertionGiven)
    .verify(client.clientAtWork)
    .verify(client.assertionSigned)
    .verify(client.assertionClaims)
    .fresh(client.assertionNonce, client.assertionUsed)
    .take(revoked),

  /** The browser, sent on by a tool that was asked to begin a login: LTI 1.3 core section 4.1.2. */
  authorization: inbound<authorization.AuthorizationCall, authorization.AuthorizationAnswer>('authorization', 'login', authorization.aboutRequest, authorization.refuseHere)
    .read(authorization.ourHints)
    .identify(authorization.linkOfHint).about(authorization.aboutHint)
    .identify(authorization.clientOfRequest).about(authorization.aboutLaunch)
    .identify(authorization.registeredRedirect).refuse(authorization.refuseAtTool)
    .verify(authorization.wholeRequest)
    .verify(authorization.hintOfClient)
    .verify(authorization.samePerson)
    .fresh(authorization.hintNonce, authorization.hintUsed)
    .may(authorization.openLink)
    .may(authorization.personReviewed)
    .take(authorization.idToken),

  /** What was chosen in a tool’s picker: Content-Item Message 1.0, Deep Linking 2.0. */
  picked: inbound<PickedCall, picked.Picked>('picked', 'picker', picked.aboutFields, refuseByRoute)
    .identify(picked.pickingAsked).about(picked.aboutPicking).refuse(picked.refusePicked)
    .verify(picked.answerSigned)
    .may(picked.toThisQuestion)
    .take(picked.itemsKept),

  /** A tool that registers itself: Dynamic Registration 1.0. */
  registration: inbound<registration.RegistrationCall, registration.RegistrationAnswer>('registration', 'registration', registration.aboutInvitation, registration.refuseDescription)
    .verify(registration.openInvitation).about(registration.aboutDescription)
    .may(registration.metadataWhole)
    .take(registration.registered),

  /** A tool that reads or changes its registration: RFC 7592. */
  registrationChange: inbound<change.ManagementCall, registration.RegistrationAnswer>('registration change', 'registration', registration.aboutInvitation, registration.refuseDescription)
    .verify(change.toolManaged).about(change.aboutRegistration)
    .may(change.changeWhole)
    .take(change.changeProposed),

  /** A person who comes back from a tool: LTI 1.1.1 section 3, LTI 1.3 core section 5.3.6. */
  return: inbound<returned.ReturnCall, returned.Returned>('return', 'return', returned.aboutNothing, refuseByRoute)
    .read(returned.toolSaid)
    .identify(returned.linkOfReturn).about(returned.aboutLinkOfReturn)
    .may(returned.notTooOften)
    .take(returned.cameBack),
} as const // oxfmt-ignore

/** The rows as they can be shown: each message with its steps. */
export const ROWS: readonly Pick<Message<never, unknown>, 'name' | 'steps'>[] = Object.values(INBOUND)
