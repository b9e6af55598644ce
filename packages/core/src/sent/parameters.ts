import type { Parameter } from '../oauth1/index.js'
import { entryOf } from '../text/index.js'
import { keptBack, leaksOf, type SentFacts, type SentProblem } from './problem.js'

/** Parameters of a resource link launch (LTI 1.1.1 section 3), with what each has to look like. */
const TABLE: Record<string, { required?: true; form?: RegExp }> = {
  lti_message_type: { required: true, form: /^basic-lti-launch-request$/ },
  lti_version: { required: true, form: /^LTI-1p[0-2]$/ },
  resource_link_id: { required: true },
  resource_link_title: {},
  resource_link_description: {},
  user_id: { required: true },
  roles: { required: true },
  user_image: { form: /^https?:/ },
  role_scope_mentor: {},
  lis_person_name_given: {},
  lis_person_name_family: {},
  lis_person_name_full: {},
  lis_person_contact_email_primary: { form: /@/ },
  lis_person_sourcedid: {},
  lis_course_offering_sourcedid: {},
  lis_course_section_sourcedid: {},
  lis_outcome_service_url: { form: /^https?:/ },
  lis_result_sourcedid: {},
  context_id: { required: true },
  context_type: {},
  context_title: {},
  context_label: {},
  launch_presentation_locale: { form: /^[A-Za-z]{2,3}([-_][A-Za-z0-9]+)*$/ },
  launch_presentation_document_target: { form: /^(frame|iframe|window)$/ },
  launch_presentation_width: { form: /^\d+$/ },
  launch_presentation_height: { form: /^\d+$/ },
  launch_presentation_return_url: { form: /^https?:/ },
  launch_presentation_css_url: { form: /^https?:/ },
  tool_consumer_info_product_family_code: {},
  tool_consumer_info_version: {},
  tool_consumer_instance_guid: {},
  tool_consumer_instance_name: {},
  tool_consumer_instance_description: {},
  tool_consumer_instance_url: { form: /^https?:/ },
  tool_consumer_instance_contact_email: {},
  oauth_consumer_key: { required: true },
  oauth_signature_method: { required: true, form: /^HMAC-SHA(1|256)$/ },
  oauth_timestamp: { required: true, form: /^\d+$/ },
  oauth_nonce: { required: true },
  oauth_version: { required: true, form: /^1\.0$/ },
  oauth_signature: { required: true, form: /^[A-Za-z0-9+/]+=*$/ },
  oauth_callback: { form: /^about:blank$/ },
}
const OF_NAME = ['lis_person_name_given', 'lis_person_name_family', 'lis_person_name_full', 'lis_person_sourcedid']

/**
 * Holds the form of an LTI 1.1 launch against the table of its parameters (LTI 1.1.1 section 3) and against what the registration allows.
 * @returns nothing when it is as it should be
 */
export function checkSentParameters(fields: readonly Parameter[], facts: SentFacts): SentProblem[] {
  const problems: SentProblem[] = []
  const say = (name: string, statement: string) => problems.push({ name, statement })
  const values = new Map(fields)
  for (const [name, { required }] of Object.entries(TABLE))
    if (required && !values.get(name)) say(name, `“${name}” is missing, which every launch has to say.`)
  const seen = new Set<string>()
  for (const [name, value] of fields) {
    if (seen.has(name)) say(name, `“${name}” is sent twice.`)
    seen.add(name)
    const known = entryOf(TABLE, name)
    if (!known && !/^(custom|ext)_[a-z0-9_]+$/i.test(name))
      say(name, `“${name}” is neither in the standard’s table nor a custom parameter.`)
    if (known?.form && value !== '' && !known.form.test(value)) say(name, `“${name}” has a form that it may not have.`)
  }
  const kept = keptBack(facts.disclosure)
  for (const name of OF_NAME)
    if (kept.name && values.get(name)) say(name, `“${name}” is sent, which the registration keeps back.`)
  const email = 'lis_person_contact_email_primary'
  if (kept.email && values.get(email)) say(email, `“${email}” is sent, which the registration keeps back.`)
  const isLearner = (values.get('roles') ?? '').split(',').some((role) => /(^|\/)Learner$/.test(role))
  if (isLearner !== (facts.as === 'learner')) say('roles', `“roles” does not say that this is ${an(facts.as)}.`)
  if (facts.as === 'instructor' && values.get('lis_result_sourcedid'))
    say('lis_result_sourcedid', '“lis_result_sourcedid” is sent for somebody who is not scored.')
  return [...problems, ...leaksOf(fields, facts.secrets)]
}

function an(role: SentFacts['as']): string {
  return role === 'instructor' ? 'an instructor' : 'a learner'
}
