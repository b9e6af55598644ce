import { describe, expect, it } from 'vitest'
import { codeVerifies, isCodeChallenge } from '@bathyscribe/core/lti13'

describe('a proof key', () => {
  // RFC 7636 appendix B.
  const verifier = 'dBjftJeZ4CVP-mB92K27uhbUJU1p1r_wW1gFWFOEjXk'
  const challenge = 'E9Melhoa2OwvFrEMTJguCHaoeK1t8URWbuGJSstw-cM'
  it('fits its challenge, and no other one', () => {
    expect(codeVerifies(verifier, challenge)).toBe(true)
    expect(codeVerifies(verifier, `${challenge.slice(0, -1)}A`)).toBe(false)
    expect(codeVerifies(challenge, challenge)).toBe(false)
    expect(codeVerifies('short', challenge)).toBe(false)
  })
  it('is only taken as S256', () => {
    expect(isCodeChallenge(challenge)).toBe(true)
    for (const other of ['', verifier.slice(1), `${challenge}=`, 'plain']) expect(isCodeChallenge(other)).toBe(false)
  })
})
