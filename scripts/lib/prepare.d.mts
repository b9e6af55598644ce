export const ROOT: string
export const RUN: string
