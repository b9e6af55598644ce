export function postgresPrograms(): string | undefined
export function startPostgres(
  folder: string,
  options?: { settings?: Record<string, string> },
): Promise<{ url: string; folder: string; started: boolean }>
export function stopPostgres(folder: string): void
export function removePostgres(folder: string): void
