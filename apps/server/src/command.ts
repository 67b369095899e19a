import { readFileSync } from 'node:fs';
import { keyScopes, keyScopeSchema, roleSchema } from '@eager-sieve/contracts';
import { definitionsDocumentSchema, fold } from '@eager-sieve/core';
import { z } from 'zod';
import { Database } from './database/database';
import { Person } from './database/entities';
import { prepareDatabase } from './database/prepare';
import { DatabaseClock } from './engine/clock';
import { verify } from './engine/verify';
import { ServerClock } from './engine/server-clock';
import { writeSetting } from './ledger/settings-ledger';
import { DefinitionStore } from './settings/definition-store';
import { DefinitionsService } from './settings/definitions.service';
import { createKey } from './settings/keys.service';
import { GuessesService } from './settings/guesses.service';
import { addPerson, PeopleService } from './settings/people.service';
import { SessionsService } from './settings/sessions.service';

/** Everybody who can sign in, and a key of the API, all at once. */
const furnishingSchema = z.strictObject({
  people: z.array(
    z.strictObject({
      email: z.string(),
      name: z.string(),
      role: roleSchema,
      password: z.string(),
      team: z.string().optional(),
      seesTeam: z.boolean().optional(),
    }),
  ),
  key: z.strictObject({ name: z.string(), scopes: z.array(keyScopeSchema).min(1) }),
  /** nothing is done where somebody has access already */
  onlyIfEmpty: z.boolean().optional(),
});

/** What `./sieve` does inside the server's own code: `key NAME SCOPES`, `person EMAIL NAME ROLE PASSWORD`, `furnish JSON`, `first`, `reset EMAIL`, `pause`, `verify`, `export`, `import FILE`, `people`. Answers one line of JSON. */
async function main([command = '', ...args]: readonly string[]): Promise<unknown> {
  const databaseUrl = process.env['DATABASE_URL'];
  if (!databaseUrl) throw new Error('DATABASE_URL is not set.');
  const database = await new Database(databaseUrl, 4).open();
  try {
    await prepareDatabase(database);
    const clock = new DatabaseClock();
    await clock.set(database);
    switch (command) {
      case 'key': {
        const [name = '', scopes = ''] = args;
        const wanted = scopes.split(',').filter(Boolean);
        const unknown = wanted.filter((scope) => !(keyScopes as readonly string[]).includes(scope));
        if (!name || wanted.length === 0 || unknown.length > 0) throw new Error(`Scopes are ${keyScopes.join(', ')}.`);
        return await database.transaction((sql) =>
          createKey(sql, name, z.array(keyScopeSchema).parse(wanted), 'command line', clock.now()),
        );
      }
      case 'person': {
        const [email = '', name = '', role = '', password = '', team, sees] = args;
        const person = { email, name, role: roleSchema.parse(role), password, team, seesTeam: sees === 'sees-team' };
        return { id: (await database.transaction((sql) => addPerson(sql, person, clock.now()))) ?? null };
      }
      case 'furnish': {
        const { people, key, onlyIfEmpty } = furnishingSchema.parse(JSON.parse(args[0] ?? ''));
        if (onlyIfEmpty === true && (await database.read(Person).existsBy({}))) return { key: null };
        return await database.transaction(async (sql) => {
          for (const person of people) await addPerson(sql, person, clock.now());
          return createKey(sql, key.name, key.scopes, 'command line', clock.now());
        });
      }
      case 'first': {
        const serverClock = new ServerClock(clock);
        const sessions = new SessionsService(database, serverClock, new GuessesService(database, serverClock));
        const token = (await new PeopleService(database, serverClock, sessions).inviteFirst()) ?? null;
        return { token, people: await addresses(database) };
      }
      case 'reset': {
        const [email = ''] = args;
        const person = await database.read(Person).findOneBy({ email: fold(email) });
        if (!person) throw new Error(`Nobody with the address ${email} has access.`);
        const serverClock = new ServerClock(clock);
        const sessions = new SessionsService(database, serverClock, new GuessesService(database, serverClock));
        return await new PeopleService(database, serverClock, sessions).reset(person.id, 'command line');
      }
      case 'pause': {
        await database.transaction(async (sql) => {
          await sql.query('update workspace set sends_paused = true where id = 1');
          await writeSetting(sql, 'messages paused', {}, 'command line', clock.now());
        });
        return {};
      }
      case 'verify': {
        const store = new DefinitionStore();
        return await verify(database, store, clock, (done) => process.stderr.write(`\r${done} contacts compared`));
      }
      case 'export':
        return await new DefinitionsService(database, new DefinitionStore(), new ServerClock(clock)).document();
      case 'import': {
        const document = definitionsDocumentSchema.parse(JSON.parse(readFileSync(args[0] ?? '', 'utf8')));
        return await new DefinitionsService(database, new DefinitionStore(), new ServerClock(clock)).put(document, 'command line', false);
      }
      case 'people':
        return { people: await addresses(database) };
      default:
        throw new Error(`There is no command ${command}.`);
    }
  } finally {
    await database.close();
  }
}

/** Of everybody who has access. */
const addresses = async (database: Database): Promise<readonly string[]> =>
  (await database.read(Person).find({ select: { email: true } })).map(({ email }) => email);

main(process.argv.slice(2)).then(
  (answer) => process.stdout.write(`${JSON.stringify(answer)}\n`),
  (error: unknown) => {
    process.stderr.write(`${error instanceof Error ? error.message : String(error)}\n`);
    process.exit(1);
  },
);
