import { MISBEHAVIOURS, type Misbehaviour } from '../misbehaviours.js'
import { escape, returnForm } from '../parts/page.js'
import type { Fields } from '../lti1/verify-launch.js'
import { DRILLS, type Drill } from './drills.js'
import { DRILL_POINTS, LINK_SETTINGS, type Picking1 } from './shelf.js'
import type { LinkState } from './state.js'

const STYLE = `
body { margin: 0; font: 16px/1.5 Georgia, serif; background: #f3efe4; color: #2b2620; }
header { background: #5b3a29; color: #f8f1e3; padding: .7rem 1.4rem; display: flex; justify-content: space-between; gap: 1rem; }
main { max-width: 46rem; margin: 1.4rem auto; padding: 0 1.4rem; }
fieldset { border: 1px solid #cfc3ab; border-radius: .4rem; margin: 0 0 1rem; background: #fbf8f0; padding: .7rem 1rem; }
legend { font-weight: bold; } label { display: block; padding: .15rem 0; }
button { font: inherit; background: #5b3a29; color: #fff; border: 0; border-radius: .3rem; padding: .45rem 1.2rem; cursor: pointer; }
table { border-collapse: collapse; width: 100%; } td, th { text-align: left; border-bottom: 1px solid #cfc3ab; padding: .35rem .6rem; }
code { background: #e9e1cd; padding: .1rem .3rem; }
.big { font-size: 1.6rem; }`

function page(title: string, who: string, body: string): string {
  return `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${escape(title)}</title><style>${STYLE}</style></head><body><header><strong>Knotwork Drills</strong><span>${escape(who)}</span></header><main>${body}</main></body></html>`
}

/** What the vendor's side shows a customer: the values that are to be copied over. */
export function credentialsPage(key: string, secret: string, launchUrl: string): string {
  const row = (label: string, value: string) => `<tr><th>${label}</th><td><code>${escape(value)}</code></td></tr>`
  return page(
    'Credentials',
    'Skerrow Maritime Academy',
    `<h1>Your credentials</h1><p>Enter these in your platform. LTI 1.1, scores by Basic Outcomes.</p><table>${row('Consumer key', key)}${row('Shared secret', secret)}${row('Launch address', launchUrl)}${row('Configuration address', launchUrl.replace(/launch$/, 'config.xml'))}</table>
     <p>Its picker is at <code>${launchUrl.replace(/launch$/, 'shelf')}</code>.</p><p>A link’s custom parameter <code>drill</code> chooses what is shown: <code>bends</code>, <code>soundings</code> or <code>clouds</code>. Under <code>practice_score</code>, for instance 0.645, a learner’s launch is scored at once, without a person.</p>`,
  )
}

export function drillPage(drill: Drill, name: string, session: string): string {
  const questions = drill.questions
    .map(
      (question, i) =>
        `<fieldset><legend>${i + 1}. ${escape(question.text)}</legend>${question.choices.map((choice, j) => `<label><input type="radio" name="q${i}" value="${j}" required> ${escape(choice)}</label>`).join('')}</fieldset>`,
    )
    .join('')
  return page(
    drill.title,
    name,
    `<h1>${escape(drill.title)}</h1><form method="post" action="/answers"><input type="hidden" name="session" value="${session}">${questions}<button>Hand in</button></form>`,
  )
}

export function resultPage(drill: Drill, name: string, fraction: string, sent: string): string {
  return page(
    drill.title,
    name,
    `<h1>${escape(drill.title)}</h1><p class="big">You reached ${escape(fraction)} of 1.</p><p id="sent">${escape(sent)}</p>`,
  )
}

/** The instructor's view: who has worked, and the switches for misbehaving. */
export function instructorPage(link: LinkState, name: string, session: string): string {
  const rows = Object.values(link.workers)
    .map(
      (worker) =>
        `<tr><td>${escape(worker.name)}</td><td>${worker.attempts}</td><td>${worker.fraction ?? '–'}</td><td>${escape(worker.sent)}</td></tr>`,
    )
    .join('')
  const switches = (Object.entries(MISBEHAVIOURS) as [Misbehaviour, string][])
    .map(
      ([id, text]) =>
        `<label><input type="checkbox" name="${id}"${link.misbehaviours.includes(id) ? ' checked' : ''}> ${escape(text)}</label>`,
    )
    .join('')
  return page(
    link.title,
    name,
    `<h1>${escape(link.title)}</h1><p>${escape(link.course)}</p><table><thead><tr><th>Learner</th><th>Attempts</th><th>Score</th><th>Sent</th></tr></thead><tbody>${rows || '<tr><td colspan="4">Nobody has worked here yet.</td></tr>'}</tbody></table>
     <h2>Practice: misbehave on this link</h2><form method="post" action="/misbehave"><input type="hidden" name="session" value="${session}">${switches}<p><button>Keep these</button></p></form>`,
  )
}

/** The shelf that drills are picked from, with the settings of a link. */
export function shelfPage(picking: Picking1, session: string): string {
  const kind = picking.multiple ? 'checkbox' : 'radio'
  const drills = DRILLS.map((drill, i) => {
    const name = picking.multiple
      ? `name="take-${drill.id}"`
      : `name="drill" value="${drill.id}"${i === 0 ? ' checked' : ''}`
    return `<label><input type="${kind}" ${name}> ${escape(drill.title)} <small>(${DRILL_POINTS} points)</small></label>`
  })
  const settings = Object.entries(LINK_SETTINGS).map(
    ([name, values]) =>
      `<label>${name === 'send' ? 'Send' : 'Length'} <select name="${name}">${values.map((one) => `<option>${one}</option>`).join('')}</select></label>`,
  )
  const hidden = `<input type="hidden" name="session" value="${session}">`
  return page(
    'The shelf',
    picking.name,
    `<h1>Choose from the shelf</h1><form method="post" action="/shelf/take">${hidden}<fieldset><legend>Drills</legend>${drills.join('')}</fieldset><fieldset><legend>Settings of the link</legend>${settings.join('')}</fieldset><button>Take it</button></form>
     <form method="post" action="/shelf/take">${hidden}<p><button>Take nothing</button></p></form>`,
  )
}

/** Posts what was chosen back through the browser. */
export function returnPage(returnUrl: string, fields: Fields): string {
  return page('Back to your course', '', returnForm(returnUrl, fields))
}

export function messagePage(title: string, text: string): string {
  return page(title, '', `<h1>${escape(title)}</h1><p>${escape(text)}</p>`)
}
