/** The made-up credentials of the academy’s service at its identity provider. */
export const SIGN_ON_CLIENT = { clientId: 'skerrow-bathyscribe', clientSecret: 'binnacle-5-thole-9-spar' } as const

/** The short name under which services are expected to know this provider: it stands in their addresses. */
export const SIGN_ON_HANDLE = 'skerrow'
