export function seed(options: {
  url: string
  knotwork: string
  setupCode: string
  harbour: string
  chandlery: string
  sextant: string
  plotting: string
  signal: string
  lantern: string
  say: (line: string) => void
}): Promise<void>
