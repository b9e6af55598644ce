import type { SignatureCause } from './facts.js'

export const emptyLeftOut: SignatureCause = {
  code: 'empty_left_out',
  name: 'empty parameters not signed',
  sentence: 'Parameters without a value were sent, but left out of the signature.',
  ours: null,
  theirs: 'Sign every parameter that is sent, empty ones included.',
  variants: ({ request }) => {
    const empty = request.parameters.filter(([, value]) => value === '')
    return empty.length === 0
      ? []
      : [
          {
            request: { ...request, parameters: request.parameters.filter(([, value]) => value !== '') },
            evidence: [
              [
                'sent empty',
                empty
                  .map(([name]) => name)
                  .join(', ')
                  .slice(0, 200),
              ],
            ],
          },
        ]
  },
}
