import { requestsOnly } from '@bathyscribe/contract'
import { describe, expect, it } from 'vitest'

describe('a HAR file, before it is sent', () => {
  const request = {
    method: 'POST',
    url: 'https://t.example/launch',
    headers: [
      { name: 'Cookie', value: 'session=private' },
      { name: 'Authorization', value: 'OAuth a="b"' },
    ],
    cookies: [{ name: 'session', value: 'private' }],
    postData: { mimeType: 'application/x-www-form-urlencoded', text: 'a=b' },
  }
  const file = { log: { version: '1.2', pages: ['private'], entries: [{ startedDateTime: 'now', request, response: { content: { text: 'private'.repeat(1000) } } }] } } // oxfmt-ignore

  it('keeps who asked what, and nothing that was answered, nor a cookie', () => {
    const kept = requestsOnly(JSON.stringify(file, null, 2))
    expect(kept).not.toContain('private')
    expect(JSON.parse(kept)).toEqual({
      log: {
        entries: [
          {
            startedDateTime: 'now',
            request: {
              method: 'POST',
              url: request.url,
              headers: [{ name: 'Authorization', value: 'OAuth a="b"' }],
              postData: request.postData,
            },
          },
        ],
      },
    })
  })

  it.each(['', 'eyJ.x.y', '{', '{"log":null}', '{"log":{"entries":7}}', '{"a":1}', '[1]', 'POST&x'])(
    'any other text stays as it is: %s',
    (text) => {
      expect(requestsOnly(text)).toBe(text)
    },
  )

  it('with entries of another form is read all the same', () => {
    expect(requestsOnly('{"log":{"entries":[{},{"request":{"headers":"x"}}]}}')).toContain('entries')
  })
})
