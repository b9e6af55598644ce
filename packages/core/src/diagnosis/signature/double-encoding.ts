import { percentEncode } from '../../oauth1/encoding.js'
import { baseParts, baseString } from './base.js'
import type { SignatureCause } from './facts.js'

export const doubleEncoding: SignatureCause = {
  code: 'double_encoding',
  name: 'encoded once too often or too little',
  sentence: 'The parameters were percent-encoded once too often, or once too little, before they were signed.',
  ours: null,
  theirs:
    'Encode each name and value once, then the whole of them once more as a part of the base string (RFC 5849 section 3.4.1).',
  variants: ({ request }) => {
    const right = baseString(baseParts(request))
    const [method = '', address = '', parameters = ''] = right.split('&')
    const twice = request.parameters.map(([name, value]) => [name, percentEncode(value)] as const)
    return [
      { request: { ...request, parameters: twice }, evidence: [['values', 'encoded twice']] },
      {
        baseString: `${method}&${address}&${decodeURIComponent(parameters)}`,
        evidence: [['parameters', 'not encoded as a whole']],
      },
      { baseString: `${method}&${decodeURIComponent(address)}&${parameters}`, evidence: [['address', 'not encoded']] },
      { baseString: right.replaceAll('%25', '%'), evidence: [['values', 'encoded once only']] },
    ]
  },
}
