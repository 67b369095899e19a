import { parseArgs } from 'node:util';
import { commands, HELP } from './commands';
import { ToldError } from './say';

async function main(argv: readonly string[]): Promise<void> {
  const [name = 'help', ...rest] = argv;
  if (name === 'help' || name === '--help' || name === '-h') {
    console.log(HELP);
    return;
  }
  const command = Object.hasOwn(commands, name) ? commands[name] : undefined;
  if (!command) throw new ToldError(`There is no command “${name}”.\n\n${HELP}`);
  let read: ReturnType<typeof parseArgs>;
  try {
    read = parseArgs({ args: [...rest], options: command.options, allowPositionals: true, strict: true });
  } catch (error) {
    throw new ToldError(
      `${error instanceof Error ? error.message.split('. To specify')[0] : String(error)}\n\nUsage: ./sieve ${command.usage}`,
    );
  }
  if (read.positionals.length > command.positionals)
    throw new ToldError(`“${read.positionals.at(-1)}” is too much.\n\nUsage: ./sieve ${command.usage}`);
  await command.run(read.values as Record<string, string | boolean | undefined>, read.positionals);
}

main(process.argv.slice(2)).then(
  () => process.exit(process.exitCode ?? 0),
  (error: unknown) => {
    if (error instanceof ToldError) console.error(error.message);
    else console.error(error);
    process.exit(1);
  },
);
