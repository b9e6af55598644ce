export const ROOT: string
export const RUN: string
export const REPORT: string
