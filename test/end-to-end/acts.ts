import type { Locator, Page } from 'playwright-core'

/** What a person does with hand and keys, counted one by one: a press, something typed into a field, something pasted, a choice. Looking and waiting are none. */
export class Acts {
  readonly done: string[] = []

  constructor(private readonly page: Page) {}

  async press(what: Locator): Promise<void> {
    this.note('press', what)
    await what.click()
  }

  async type(field: Locator, text: string): Promise<void> {
    this.note(`type ${text} into`, field)
    await field.fill(text)
  }

  /** By the clipboard and its keys, into whatever has the focus: a page that does not offer its field at once costs an act more. */
  async paste(text: string): Promise<void> {
    this.done.push(`paste ${text.slice(0, 40)}`)
    await this.page.evaluate((copied) => navigator.clipboard.writeText(copied), text)
    await this.page.keyboard.press('Control+V')
  }

  private note(verb: string, on: Locator): void {
    this.done.push(`${verb} ${on.toString()}`)
  }
}
