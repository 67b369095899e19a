import { Client } from 'pg';

/** Which ids a column holds: those of contacts and companies come from one sequence. */
type Ids = 'subject' | 'signal' | 'deal' | 'change' | 'past tag';

interface Copied {
  readonly table: string;
  /** columns with ids, which are moved along with each copy */
  readonly ids: Readonly<Record<string, Ids>>;
  /** columns whose texts nobody else may have */
  readonly own?: readonly string[];
}

/** What a workspace holds of its contacts and companies, but for the ledger, which nothing that is measured reads. What is referred to comes first. */
const COPIED: readonly Copied[] = [
  { table: 'company', ids: { id: 'subject' }, own: ['outside_id', 'name', 'name_folded'] },
  { table: 'contact', ids: { id: 'subject', company_id: 'subject', merged_into: 'subject' }, own: ['email', 'email_folded', 'outside_id'] },
  ...['contact_fact', 'contact_tag', 'contact_tag_reason', 'contact_consent', 'contact_score', 'membership', 'membership_past'].map(
    (table): Copied => ({ table, ids: { contact_id: 'subject' } }),
  ),
  { table: 'contact_tag_past', ids: { contact_id: 'subject', id: 'past tag' } },
  { table: 'contact_change', ids: { contact_id: 'subject', id: 'change' } },
  { table: 'signal', ids: { contact_id: 'subject', id: 'signal' }, own: ['sender_id'] },
  { table: 'signal_sum', ids: { contact_id: 'subject' } },
  { table: 'due', ids: { contact_id: 'subject' } },
  {
    table: 'deal',
    ids: { id: 'deal', holder_id: 'subject', next_holder_id: 'subject', contact_id: 'subject', company_id: 'subject' },
    own: ['outside_id'],
  },
  { table: 'deal_score', ids: { holder_id: 'subject', deal_id: 'deal' } },
];

/** The sequences that ids come from, so that what is made later goes on behind the copies. */
const SEQUENCES: Readonly<Record<Ids, string>> = {
  subject: 'contact_id_seq',
  signal: 'signal_id_seq',
  deal: 'deal_id_seq',
  change: 'contact_change_id_seq',
  'past tag': 'contact_tag_past_id_seq',
};

/**
 * Makes a large workspace of a small one that was worked by the product: everyone is copied with all they have. The state of a copy is that of whom it was
 * copied from, so it is as true; the ledger is not copied, and of copies nothing can be traced.
 *
 * @param times how many there are of each in the end
 */
export async function multiply(databaseUrl: string, times: number): Promise<void> {
  const client = new Client({ connectionString: databaseUrl });
  await client.connect();
  try {
    await client.query(`set synchronous_commit = off; set maintenance_work_mem = '1GB'`);
    const steps = await stepsOf(client);
    const indexes = await takeIndexes(client);
    for (const copied of COPIED) await client.query(await copySql(client, copied, steps), [times]);
    for (const definition of indexes) await client.query(definition);
    for (const [ids, sequence] of Object.entries(SEQUENCES))
      if (steps.known.has(sequence)) await client.query('select setval($1, $2)', [sequence, steps.of[ids as Ids] * (times + 1)]);
    await client.query('vacuum analyze');
  } finally {
    await client.end();
  }
}

interface Steps {
  /** how far the ids of a copy are from those of the one before */
  readonly of: Readonly<Record<Ids, number>>;
  readonly known: ReadonlySet<string>;
}

async function stepsOf(client: Client): Promise<Steps> {
  const { rows } = await client.query<Record<Ids, string>>(
    `select greatest((select max(id) from contact), (select max(id) from company)) as subject, (select max(id) from signal) as signal,
            (select max(id) from deal) as deal, (select max(id) from contact_change) as change, (select max(id) from contact_tag_past) as "past tag"`,
  );
  const step = (ids: Ids): number => Number(rows[0]?.[ids] ?? 0) + 1;
  const sequences = await client.query<{ name: string }>(`select sequencename as name from pg_sequences where schemaname = 'public'`);
  return {
    of: { subject: step('subject'), signal: step('signal'), deal: step('deal'), change: step('change'), 'past tag': step('past tag') },
    known: new Set(sequences.rows.map(({ name }) => name)),
  };
}

/** Takes the indexes of the large tables away while they are filled, and says how they are made again. */
async function takeIndexes(client: Client): Promise<readonly string[]> {
  const { rows } = await client.query<{ name: string; definition: string }>(
    `select i.indexname as name, i.indexdef as definition from pg_indexes i join pg_class c on c.relname = i.indexname
      where i.schemaname = 'public' and i.tablename = any($1::text[]) and i.indexdef not like 'CREATE UNIQUE%'`,
    [COPIED.filter(({ table }) => table !== 'contact' && table !== 'company').map(({ table }) => table)],
  );
  for (const { name } of rows) await client.query(`drop index "${name}"`);
  return rows.map(({ definition }) => definition.replace(' ON ONLY ', ' ON '));
}

/** The lane of a subject, as the product works it out (`laneOf` of the core): the top six bits of its id multiplied by 2⁶⁴/φ. */
const laneSql = (id: string): string => `floor(mod((${id})::numeric * 11400714819323198485, 2::numeric ^ 64) / 2::numeric ^ 58)::smallint`;

async function copySql(client: Client, { table, ids, own = [] }: Copied, { of }: Steps): Promise<string> {
  const { rows } = await client.query<{ name: string }>(
    `select column_name as name from information_schema.columns
      where table_schema = 'public' and table_name = $1 and is_generated = 'NEVER' order by ordinal_position`,
    [table],
  );
  const names = rows.map(({ name }) => name);
  const moved = (name: string, kind: Ids): string => `t.${name} + k * ${of[kind]}`;
  const values = names.map((name) => {
    const kind = ids[name];
    if (kind) return moved(name, kind);
    if (name === 'lane') return laneSql(moved('id' in ids ? 'id' : 'contact_id', 'subject'));
    if (name === 'uid') return 'gen_random_uuid()';
    return own.includes(name) ? `'c' || k || '.' || t.${name}` : `t.${name}`;
  });
  return `insert into ${table} (${names.join(', ')}) select ${values.join(', ')} from ${table} t, generate_series(1, $1::int - 1) k`;
}
