import { escapeUTF8 } from 'entities'

/** With `&#39;` in place of `&apos;`, which readers of earlier HTML do not know. */
export const escape = (text: string) => escapeUTF8(text).replaceAll('&apos;', '&#39;')

/** How one practice tool looks: its name, and the colours of its head and ground. */
export interface Look {
  name: string
  ink: string
  ground: string
}

/** A page of a practice tool. `body` is markup; everything else is escaped. */
export function toolPage(look: Look, title: string, who: string, body: string): string {
  const style = `
body { margin: 0; font: 16px/1.5 Georgia, serif; background: ${look.ground}; color: #24241f; }
header { background: ${look.ink}; color: #fdf9ef; padding: .7rem 1.4rem; display: flex; justify-content: space-between; gap: 1rem; }
main { max-width: 46rem; margin: 1.4rem auto; padding: 0 1.4rem; }
fieldset { border: 1px solid #c9c4b4; border-radius: .4rem; margin: 0 0 1rem; padding: .7rem 1rem; background: #ffffff99; }
label { display: block; padding: .15rem 0; } input[type=text] { font: inherit; padding: .25rem .5rem; }
button { font: inherit; background: ${look.ink}; color: #fff; border: 0; border-radius: .3rem; padding: .45rem 1.2rem; cursor: pointer; }
table { border-collapse: collapse; width: 100%; } td, th { text-align: left; border-bottom: 1px solid #c9c4b4; padding: .35rem .6rem; vertical-align: top; }
code { background: #00000012; padding: .1rem .3rem; overflow-wrap: anywhere; }`
  return `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${escape(title)}</title><style>${style}</style></head><body><header><strong>${escape(look.name)}</strong><span>${escape(who)}</span></header><main>${body}</main></body></html>`
}

export function valueTable(rows: readonly (readonly [string, string])[]): string {
  const cells = rows.map(([label, value]) => `<tr><th>${escape(label)}</th><td><code>${escape(value)}</code></td></tr>`)
  return `<table>${cells.join('')}</table>`
}

/** A form with hidden values and one button. */
export function buttonForm(action: string, hidden: Record<string, string>, label: string, inside = ''): string {
  const inputs = Object.entries(hidden).map(
    ([name, value]) => `<input type="hidden" name="${escape(name)}" value="${escape(value)}">`,
  )
  return `<form method="post" action="${escape(action)}">${inputs.join('')}${inside}<p><button>${escape(label)}</button></p></form>`
}

/** A page that posts the answer back through the browser. */
export function returnForm(returnUrl: string, fields: Record<string, string>): string {
  const inputs = Object.entries(fields).map(
    ([name, value]) => `<input type="hidden" name="${escape(name)}" value="${escape(value)}">`,
  )
  return `<p>Going back …</p><form id="back" method="post" action="${escape(returnUrl)}">${inputs.join('')}<button>Go back</button></form><script>document.getElementById('back').submit()</script>`
}
