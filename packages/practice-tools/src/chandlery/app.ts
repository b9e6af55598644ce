import type { FastifyInstance } from 'fastify'
import { Kept } from '../parts/kept.js'
import { escape, toolPage, type Look } from '../parts/page.js'
import { createTool1, sendMessage, type Tool1Options } from '../parts/tool1-app.js'

const LOOK: Look = { name: 'Chandlery Shelf', ink: '#4c5a2e', ground: '#f3f3ea' }

/** What each title opens. Upper and lower case count: that is how the library gives its permissions. */
export const SHELVES: Readonly<Record<string, readonly string[]>> = {
  'Chandlery Shelf': ['Knots and splices', 'Care of rope', 'The bosun’s list'],
  'Pilot Books': ['Approaches to Skerrow', 'Lights and fog signals', 'Tidal streams'],
  'Weather Atlas': ['Fronts of the northern seas', 'Clouds by height', 'Ice limits'],
}

/** Chandlery Shelf, a practice tool of LTI 1.1: a library whose permissions hang on the exact title of the link. */
export async function createChandlery(options: Tool1Options): Promise<FastifyInstance> {
  const kept = new Kept<{ faults?: string[] }>(options.stateFile, {})
  return createTool1(options, {
    look: LOOK,
    description: 'Books and charts for reading on board.',
    kept: kept.value,
    save: () => kept.save(),
    onLaunch: (fields, reply) => {
      const title = fields['resource_link_title'] ?? ''
      const shelf = SHELVES[title]
      if (!shelf)
        return sendMessage(
          reply,
          LOOK,
          'No such shelf',
          `The link is called “${escape(title)}”. The library opens only under one of its exact titles: ${Object.keys(
            SHELVES,
          )
            .map((one) => `“${one}”`)
            .join(', ')}.`,
          403,
        )
      const books = shelf.map((book) => `<li>${escape(book)}</li>`).join('')
      const name = fields['lis_person_name_full'] ?? 'Reader'
      return reply
        .type('text/html; charset=utf-8')
        .send(toolPage(LOOK, title, name, `<h1>${escape(title)}</h1><ul>${books}</ul>`))
    },
  })
}
