/** Hands the person a file that the page has made. */
export function saveFile(name: string, mediaType: string, text: string): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(new Blob([text], { type: mediaType }))
  link.download = name
  link.click()
  URL.revokeObjectURL(link.href)
}

/** The same of a table: by the mark at its beginning spreadsheets read it as UTF-8. */
export function saveTable(name: string, text: string): void {
  saveFile(name, 'text/csv', `\ufeff${text}`)
}
