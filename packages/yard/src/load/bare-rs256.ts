// The baseline of launches and tokens of LTI 1.3: RS256 by node's own crypto, as fast as this machine's cores do it.
import { generateKeyPairSync, sign, verify } from 'node:crypto'
import { promisify } from 'node:util'

const { privateKey, publicKey } = generateKeyPairSync('rsa', { modulusLength: 2048 })
const signs = promisify(sign)
const data = Buffer.alloc(2000, 'x')

/** What is wanted of this process: to sign, and verify if asked to, for so long. */
export interface Rs256Job {
  seconds: number
  verifies: boolean
}

process.on('message', (job: Rs256Job) => void answer(job))

async function answer({ seconds, verifies }: Rs256Job): Promise<void> {
  const end = performance.now() + seconds * 1000
  let done = 0
  const work = async () => {
    while (performance.now() < end) {
      const signature = await signs('sha256', data, privateKey)
      if (verifies && !verify('sha256', data, publicKey, signature)) throw new Error('A signature of our own is wrong.')
      done++
    }
  }
  const started = performance.now()
  await Promise.all(Array.from({ length: 32 }, work))
  process.send?.({ perSecond: (done / (performance.now() - started)) * 1000 })
}
