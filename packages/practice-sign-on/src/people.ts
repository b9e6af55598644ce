/** Somebody who has an account at the practice identity provider. All of them are made up. */
export interface Account {
  username: string
  name: string
  givenName: string
  familyName: string
  email: string
  emailVerified: boolean
  groups: readonly string[]
}

const account = (
  username: string,
  givenName: string,
  familyName: string,
  more: Partial<Pick<Account, 'emailVerified' | 'groups'>> = {},
): Account => ({
  username,
  name: `${givenName} ${familyName}`,
  givenName,
  familyName,
  email: `${username}@skerrow.example`,
  emailVerified: more.emailVerified ?? true,
  groups: more.groups ?? [],
})

/** The people of the demo who sign in here, and some whom the academy does not know yet. */
export const ACCOUNTS: readonly Account[] = [
  account('ingrid', 'Ingrid', 'Valesdottir', { groups: ['staff', 'technologists'] }),
  account('tomas', 'Tomas', 'Okaforlind', { groups: ['staff'] }),
  account('niamh', 'Niamh', "O'Drevnakh", { groups: ['learners'] }),
  account('sunniva', 'Sunniva', 'Brekkandoval', { groups: ['learners'] }),
  account('torvald', 'Torvald', 'Ekenwaard', { groups: ['staff', 'technologists'] }),
  account('eskil', 'Eskil', 'Rosvallan', { emailVerified: false }),
]

/** The claims of an account by which nobody is mistaken for another: the subject is none of its names. */
export const subjectOf = ({ username }: Pick<Account, 'username'>) => `skerrow-${[...username].reverse().join('')}-7`
