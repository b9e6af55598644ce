export const PASSWORD: string
