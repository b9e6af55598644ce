import type pg from 'pg'

/** A column of what a statement gives. */
export interface Column {
  name: string
  /** PostgreSQL's name of its type; `_` before it for a list. */
  type: string
  /** Whether the column of a table that it is taken from as it stands may be null; undefined where it is made. */
  mayBeNull: boolean | undefined
}

interface Field {
  name: string
  dataTypeID: number
  tableID: number
  columnID: number
}

/** As much of the protocol's connection as describing needs. */
interface Connection {
  parse: (statement: { name: string; text: string; types: [] }, more?: boolean) => void
  describe: (what: { type: 'S'; name: string }, more?: boolean) => void
  sync: () => void
}

/** Asks the server what a statement would give, without running it (PostgreSQL’s protocol: Parse, Describe). */
class Describing {
  private fields: Field[] = []
  readonly found: Promise<Field[]>
  private resolve!: (fields: Field[]) => void
  private reject!: (error: Error) => void
  private failed: Error | undefined

  constructor(private readonly text: string) {
    this.found = new Promise((resolve, reject) => Object.assign(this, { resolve, reject }))
  }
  submit(connection: Connection): void {
    connection.parse({ name: '', text: this.text, types: [] })
    connection.describe({ type: 'S', name: '' })
    connection.sync()
  }
  handleRowDescription({ fields }: { fields: Field[] }): void {
    this.fields = fields
  }
  handleError(error: Error): void {
    this.failed = error
    this.reject(error)
  }
  handleReadyForQuery(): void {
    if (!this.failed) this.resolve(this.fields)
  }
}

/** @throws what the server says where it is no statement of this schema */
export async function describeStatement(client: pg.Client, text: string): Promise<Column[]> {
  const describing = new Describing(text)
  client.query(describing as unknown as pg.Submittable)
  const fields = await describing.found
  const { rows } = await client.query<{ n: number; type: string; mayBeNull: boolean | null }>(
    `select x.n::int as n, t.typname as type, not a.attnotnull as "mayBeNull"
     from unnest($1::oid[], $2::oid[], $3::int[]) with ordinality as x(type, "table", "column", n)
     join pg_type t on t.oid = x.type left join pg_attribute a on a.attrelid = x."table" and a.attnum = x."column"
     order by x.n`,
    [fields.map((one) => one.dataTypeID), fields.map((one) => one.tableID), fields.map((one) => one.columnID)],
  )
  return fields.map(({ name }, i) => ({ name, type: rows[i]!.type, mayBeNull: rows[i]!.mayBeNull ?? undefined }))
}
