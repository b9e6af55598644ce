// The baseline of the benchmarks: a bare Fastify route that does one upsert through pg. Run as a process of its own.
import fastify from 'fastify'
import pg from 'pg'

const { BARE_DATABASE_URL, BARE_PORT } = process.env
const pool = new pg.Pool({ connectionString: BARE_DATABASE_URL, max: 12 })
await pool.query(
  'create table if not exists bare (id integer primary key, score numeric not null, at timestamptz not null)',
)
const app = fastify()
app.post<{ Body: { id: number; score: number } }>('/', async (request) => {
  const { id, score } = request.body
  await pool.query({
    name: 'upsert',
    text: 'insert into bare (id, score, at) values ($1, $2, now()) on conflict (id) do update set score = excluded.score, at = excluded.at',
    values: [id, score],
  })
  return { ok: true }
})
await app.listen({ host: '127.0.0.1', port: Number(BARE_PORT) })
process.send?.('ready')
