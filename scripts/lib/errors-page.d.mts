export function errorsPage(): string
