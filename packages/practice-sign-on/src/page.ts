import type { ServerResponse } from 'node:http'
import type { Account } from './people.js'

const escaped = (value: string) => value.replace(/[&<>"']/g, (one) => `&#${one.charCodeAt(0)};`)

/** Asks who it is. It is a practice provider: nobody has a password. */
export function signInPage(
  response: ServerResponse,
  { uid, accounts, wrong }: { uid: string; accounts: readonly Account[]; wrong?: string },
): void {
  const note = wrong === undefined ? '' : `<p role="alert">There is no account “${escaped(wrong)}” here.</p>`
  const list = accounts
    .map(({ username, name }) => `<li><code>${escaped(username)}</code> ${escaped(name)}</li>`)
    .join('')
  text(
    response,
    200,
    `<!doctype html><html lang="en"><meta charset="utf-8"><title>Skerrow accounts</title>
<style>body{font:16px/1.5 system-ui,sans-serif;max-width:34rem;margin:10vh auto;padding:0 1rem}input,button{font:inherit;padding:.3rem .6rem}</style>
<h1>Skerrow accounts</h1>${note}
<form method="post" action="/interaction/${escaped(uid)}"><p><label>Account <input name="username" autocomplete="username" autofocus required></label>
<button>Sign in</button></p></form><p>A practice identity provider: nobody has a password here. These have accounts:</p><ul>${list}</ul></html>`,
    'text/html; charset=utf-8',
  )
}

export function text(response: ServerResponse, status: number, body: string, type = 'text/plain; charset=utf-8'): void {
  response.writeHead(status, { 'content-type': type, 'cache-control': 'no-store' }).end(body)
}
