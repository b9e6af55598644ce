export function seed(options: {
  url: string
  knotwork: string
  setupCode: string
  credentials: { consumerKey: string; sharedSecret: string }
  say: (line: string) => void
}): Promise<void>
