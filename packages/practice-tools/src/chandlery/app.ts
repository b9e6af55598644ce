import type { FastifyInstance } from 'fastify'
import { Kept } from '../parts/kept.js'
import { escape, toolPage, type Look } from '../parts/page.js'
import { createTool1, sendMessage, type Tool1Options } from '../parts/tool1-app.js'

const LOOK: Look = { name: 'Chandlery Shelf', ink: '#4c5a2e', ground: '#f3f3ea' }

/** What lies in each locker. A locker opens under its exact label only, upper and lower case included. */
export const LOCKERS: Readonly<Record<string, readonly string[]>> = {
  'Chandlery Shelf': ['Shackles, galvanised', 'Manila rope, 24 mm', 'Marline spikes'],
  'Deck stores': ['Heaving lines', 'Fenders', 'Boat hooks'],
  'Foul weather gear': ['Oilskins', 'Sea boots', 'Safety harnesses'],
}

/** Chandlery Shelf, a practice tool of LTI 1.1: lockers of gear, each of which opens under its exact label only: the title of the link. */
export async function createChandlery(options: Tool1Options): Promise<FastifyInstance> {
  const kept = new Kept<{ faults?: string[] }>(options.stateFile, {})
  return createTool1(options, {
    look: LOOK,
    description: 'Lists of the gear that lies in the lockers on deck.',
    kept: kept.value,
    save: () => kept.save(),
    onLaunch: (fields, reply) => {
      const title = fields['resource_link_title'] ?? ''
      const locker = LOCKERS[title]
      if (!locker)
        return sendMessage(
          reply,
          LOOK,
          'No such locker',
          `The link is called “${escape(title)}”. A locker opens under its exact label only: ${Object.keys(LOCKERS)
            .map((one) => `“${one}”`)
            .join(', ')}.`,
          403,
        )
      const gear = locker.map((one) => `<li>${escape(one)}</li>`).join('')
      const name = fields['lis_person_name_full'] ?? 'Deckhand'
      return reply
        .type('text/html; charset=utf-8')
        .send(toolPage(LOOK, title, name, `<h1>${escape(title)}</h1><ul>${gear}</ul>`))
    },
  })
}
