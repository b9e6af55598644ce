/** Names of LTI 1.3 as its standards have them: a claim begins so, a role of a course so, and a learner has these roles. */
export const CLAIM = 'https://purl.imsglobal.org/spec/lti/claim/'
export const MEMBERSHIP = 'http://purl.imsglobal.org/vocab/lis/v2/membership'
export const LEARNER = [
  `${MEMBERSHIP}#Learner`,
  'http://purl.imsglobal.org/vocab/lis/v2/institution/person#Student',
  'http://purl.imsglobal.org/vocab/lis/v2/system/person#User',
]
