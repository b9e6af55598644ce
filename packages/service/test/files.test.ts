import { existsSync, readdirSync } from 'node:fs'
import { connect } from 'node:net'
import { dirname, join } from 'node:path'
import { beforeAll, describe, expect, it } from 'vitest'
import { codeOf, sendFile, startAcademy, type TestAcademy, type Visitor } from './harness.js'

let academy: TestAcademy
let token = ''
let aino: Visitor
const course = { course: 'HYD-210' }
beforeAll(async () => {
  academy = await startAcademy({ fileMegabytes: 1 })
  await academy.person('aino', { 'HYD-210': 'learner' })
  aino = await academy.signIn('aino')
  ;({ token } = await academy.admin.client.call('createToken', { body: { name: 't', scopes: ['teach', 'read'] } }))
})

const list = async () => (await academy.admin.client.call('listFiles', { params: course })).items
const contents = () => {
  const folder = join(dirname(academy.service.context.settings.keyFile), 'files')
  return existsSync(folder)
    ? (readdirSync(folder, { recursive: true }) as string[]).filter((name) => /[0-9a-f]{64}$/.test(name))
    : []
}
const incoming = () => {
  const folder = join(dirname(academy.service.context.settings.keyFile), 'files', 'incoming')
  return existsSync(folder) ? readdirSync(folder) : []
}
async function send(content: BlobPart, name: string) {
  const response = await sendFile(academy, { token, content, name })
  return {
    status: response.status,
    body: (await response.json()) as { id: string; name: string; mediaType: string; code: string; href: string },
  }
}

describe('a course file', () => {
  it.each([
    ['../../etc/passwd', 'passwd'],
    ['..\\..\\boot.ini', 'boot.ini'],
    ['.htaccess', 'htaccess'],
    ['სიღრმე.txt', 'სიღრმე.txt'],
    ['a\u202egpj.exe', 'agpj.exe'],
    ['x\u0000y.txt', 'xy.txt'],
    ['...', 'file'],
    [`${'n'.repeat(400)}.txt`, 'n'.repeat(200)],
  ])('called “%s” is kept as “%s”', async (name, kept) => {
    const { status, body } = await send('x', name)
    expect([status, body.name]).toEqual([201, kept])
  })

  it('is what its content is, whatever its name says, and nothing of it runs in our origin', async () => {
    const png = Buffer.from(
      'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
      'base64',
    )
    expect((await send(png, 'notes.txt')).body.mediaType).toBe('image/png')
    expect((await send('<script>alert(1)</script>', 'page.html')).body.mediaType).toBe('text/plain')
    const svg = await send(
      '<?xml version="1.0"?><svg xmlns="http://www.w3.org/2000/svg"><script>alert(1)</script></svg>',
      'x.svg',
    )
    const read = await fetch(`${academy.url}${svg.body.href}`, { headers: { authorization: `Bearer ${token}` } })
    expect(read.headers.get('content-disposition')).toMatch(/^attachment/)
    expect(read.headers.get('content-security-policy')).toContain('sandbox')
    expect(read.headers.get('x-content-type-options')).toBe('nosniff')
  })

  const sweep = (afterHours: number) => {
    const { files, records } = academy.service.context
    return files.sweep((keys) => records.files.keptOf(keys), new Date(Date.now() + afterHours * 3600_000))
  }

  it('of one content twice stands on the disk once, and goes after the last that has it', async () => {
    const before = contents().length
    const [one, two] = [await send('the same', 'one.txt'), await send('the same', 'two.txt')]
    expect(contents().length).toBe(before + 1)
    await academy.admin.client.call('removeFile', { params: { ...course, file: one.body.id } })
    await sweep(2)
    expect(contents().length).toBe(before + 1)
    await academy.admin.client.call('removeFile', { params: { ...course, file: two.body.id } })
    await sweep(0)
    expect(contents().length).toBe(before + 1)
    await sweep(2)
    expect(contents().length).toBe(before)
  })

  it('that comes while its last other one is removed, or its content is swept away, is there', async () => {
    const read = (id: string) => academy.admin.send(`/api/courses/HYD-210/files/${id}/content`)
    for (let round = 0; round < 12; round++) {
      const first = await send('again and again', 'first.txt')
      const [, second] = await Promise.all([
        academy.admin.client.call('removeFile', { params: { ...course, file: first.body.id } }),
        send('again and again', 'second.txt'),
        round % 2 === 0 ? sweep(0) : undefined,
      ])
      const answer = await read(second.body.id)
      expect([answer.status, await answer.text()]).toEqual([200, 'again and again'])
      await academy.admin.client.call('removeFile', { params: { ...course, file: second.body.id } })
    }
  })

  it('whose content was found without a record and is stored again meanwhile stays', async () => {
    await sweep(2)
    const { body } = await send('left over', 'left.txt')
    await academy.admin.client.call('removeFile', { params: { ...course, file: body.id } })
    const { files, records } = academy.service.context
    let asked = 0
    // Between the first look and the second the same content comes again.
    const gone = await files.sweep(
      async (keys) => {
        if (asked++ === 1) await send('left over', 'back.txt')
        return records.files.keptOf(keys)
      },
      new Date(Date.now() + 2 * 3600_000),
    )
    expect(gone).toBe(0)
    const back = (await list()).find((one) => one.name === 'back.txt')!
    expect((await academy.admin.send(`/api/courses/HYD-210/files/${back.id}/content`)).status).toBe(200)
  })

  it('that is empty, too large, cut off in the middle or none at all leaves nothing behind', async () => {
    const [files, kept] = [(await list()).length, contents().length]
    expect((await send('', 'empty.txt')).body.code).toBe('file.empty')
    expect((await send('x'.repeat(1_048_577), 'large.txt')).status).toBe(413)
    const none = await fetch(`${academy.url}/api/courses/HYD-210/files`, {
      method: 'POST',
      body: '{}',
      headers: { authorization: `Bearer ${token}`, 'content-type': 'application/json' },
    })
    expect(await none.json()).toMatchObject({ code: 'file.none_sent' })
    await cutOff()
    await expect.poll(incoming).toEqual([])
    expect([(await list()).length, contents().length]).toEqual([files, kept])
  })

  it('in use cannot be removed, and learners read only what is shown to them', async () => {
    const { body } = await send('Depths', 'depths.txt')
    const read = async () => (await aino.send(body.href)).status
    expect(await read()).toBe(404)
    const unit = await academy.admin.client.call('addUnit', {
      params: course,
      body: { title: 'Charts', published: true },
    })
    const item = await academy.admin.client.call('addUnitItem', {
      params: course,
      body: { kind: 'file', unit: unit.id, file: body.id, published: true },
    })
    expect(await read()).toBe(200)
    expect(await codeOf(academy.admin.client.call('removeFile', { params: { ...course, file: body.id } }))).toBe(
      'file.in_use',
    )
    await academy.admin.client.call('changeUnitItem', {
      params: { ...course, unitItem: item.id },
      body: { revision: item.revision, published: false },
    })
    expect(await read()).toBe(404)
    expect((await academy.visitor().send(body.href)).status).toBe(401)
    const form = new FormData()
    form.set('file', new Blob(['x']), 'x.txt')
    expect((await aino.send('/api/courses/HYD-210/files', { method: 'POST', body: form })).status).toBe(403)
  })
})

/** Sends half of an upload and hangs up. */
function cutOff(): Promise<void> {
  return new Promise((resolve) => {
    const { port } = new URL(academy.url)
    const socket = connect(Number(port), 'localhost', () => {
      socket.write(
        `POST /api/courses/HYD-210/files HTTP/1.1\r\nhost: localhost\r\nauthorization: Bearer ${token}\r\ncontent-type: multipart/form-data; boundary=b\r\ncontent-length: 900000\r\n\r\n--b\r\ncontent-disposition: form-data; name="file"; filename="half.txt"\r\n\r\n${'h'.repeat(70_000)}`,
      )
      setTimeout(() => socket.destroy(), 300)
    })
    socket.on('close', () => resolve())
    socket.on('error', () => resolve())
  })
}
