import { writeResultId } from '@bathyscribe/core/lti1'
import { readKeys } from '@bathyscribe/service/keys'
import type { Result, Setting } from './bench.js'
import { workload, type Worked } from './large.js'
import { load } from './loading.js'

const FLOOD_PER_SECOND = 1000
/** So many that none has to wait for an answer before the next is sent. */
const FLOOD_CONNECTIONS = 500
const OTHERS_PER_SECOND = 40
const SECONDS = 15
/** A link of another tool than the one that is measured. */
const FLOODING = { key: 'flooding', secret: 'secret-of-the-flood' }

/**
 * A tool that sends a thousand scores a second signed by a wrong secret, each refused and, as far as the rations go, explained; beside it launches and scores of another tool.
 * @returns the rate at which those are answered beside it, against their rate alone
 */
export async function diagnosisFlood(setting: Setting): Promise<Result> {
  const { client, url, keyFile, say } = setting
  const { id: course } = await client.call('createCourse', { body: { code: 'FLO 100', title: 'Flood' } })
  await client.call('registerTool', {
    body: {
      name: 'Flood',
      consumerKey: FLOODING.key,
      sharedSecret: FLOODING.secret,
      launchUrl: `${setting.knotwork}/launch`,
      secondReason: 'bench',
    },
  })
  const { id: linkId } = await client.call('createAssignment', {
    params: { course },
    body: { title: 'Flood', tool: 'flood', points: '10', publish: true },
  })
  const { id: personId } = await client.call('createPerson', { body: { username: 'flooded', fullName: 'Flooded' } })
  await client.call('enrol', { params: { course }, body: { person: personId, role: 'learner' } })
  const resultIds = [writeResultId(readKeys(keyFile).resultIdKey, { linkId, personId })]
  const work = workload(setting)
  // A service that has been at work.
  await work(3, OTHERS_PER_SECOND)
  const alone = await work(SECONDS, OTHERS_PER_SECOND)
  const flood = load({
    kind: 'refused',
    path: '/lti/outcomes',
    url,
    key: FLOODING.key,
    secret: 'another secret',
    resultIds,
    target: url,
    expect: 'oauth.signature_mismatch',
    prepare: FLOOD_PER_SECOND * (SECONDS + 2),
    rate: FLOOD_PER_SECOND,
    connections: FLOOD_CONNECTIONS,
    seconds: SECONDS + 2,
  })
  const beside = await work(SECONDS, OTHERS_PER_SECOND)
  const flooded = await flood
  say(`  diagnosis-flood: alone ${told(alone)}, beside ${Math.round(flooded.perSecond)}/s refused ${told(beside)}`)
  return {
    name: 'diagnosis-flood',
    ratio: beside.perSecond / alone.perSecond,
    floor: 0.9,
    detail: { alone, beside, refusedPerSecond: flooded.perSecond, refusedP99Ms: flooded.p99 },
  }
}

const told = ({ perSecond, p99Ms, refused }: Worked) => `${perSecond.toFixed(1)}/s, 99 % within ${p99Ms} ms, ${refused} not answered` // oxfmt-ignore
