export function freePort(): Promise<number>
export function freeRow(): Promise<number>
export function isTaken(port: number): Promise<boolean>
