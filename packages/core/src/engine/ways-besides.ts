import { isAnswered, rowsFor, rowsOf, type AnswerRow } from '../forms/answer-map.ts';
import { ELEMENT, type Details } from '../intake/details.ts';
import { stepFactWords } from '../rules/ladder-words.ts';
import { optionOf } from '../contacts/facts.ts';
import { namesInMap } from './maps.ts';
import { bundleLines, gateLines, gives, namesIt, notSo, type Asking, type WayTo, type WhyLine } from './why-lines.ts';

/** Maps that give the tag for what somebody ordered, started or joined. */
export function mapWays({ compiled: { catalogue, maps }, state, wanted }: Asking): readonly WayTo[] {
  return catalogue.all('map').flatMap(({ id, key, name, body }): readonly WayTo[] => {
    const rows = body.rows.filter(({ add }) => add.includes(wanted.id));
    if (rows.length === 0) return [];
    const map = maps.get(id);
    const verbs = body.adds.map((type) => catalogue.body('signalType', type)?.verb ?? '…').join(' or ');
    const lines: readonly WhyLine[] = [
      { words: 'It is on', holds: body.on },
      {
        words: `they ${verbs} ${rows.map(({ value }) => `“${value}”`).join(' or ')}`,
        holds: map ? namesInMap(map, state, (row) => row.add.includes(wanted.id)) : false,
      },
    ];
    const because = !body.on
      ? 'It is off.'
      : lines[1]?.holds
        ? 'It gave it, and it has gone since, or came before the row was there.'
        : 'That never happened.';
    return [{ kind: 'map', id, key, name, lines, because }];
  });
}

/** Links in messages that give the tag to whoever follows them. */
export function linkWays({ compiled: { catalogue }, state, wanted }: Asking): readonly WayTo[] {
  const clicked = catalogue.find('signalType', 'message.clicked')?.id;
  return catalogue.all('message').flatMap(({ id, key, name, body }): readonly WayTo[] => {
    const links = body.links.filter(({ tag }) => tag === wanted.id);
    if (links.length === 0) return [];
    const chosen = (clicked === undefined ? [] : (state.signals.get(clicked) ?? [])).some(
      ({ details }) => details['campaign'] === key && links.some((link) => link.key === details['link']),
    );
    return [
      {
        ...{ kind: 'message', id, key, name },
        lines: [{ words: `they choose ${links.map(({ label }) => `“${label}”`).join(' or ')} in it`, holds: chosen }],
        because: chosen ? 'They chose it, and the tag has gone since.' : 'They have not chosen it.',
      },
    ];
  });
}

/** Forms whose answers give it, by a row or by what is done about them. */
export function formWays(asking: Asking): readonly WayTo[] {
  const { state, wanted } = asking;
  const { catalogue } = asking.compiled;
  const answered = catalogue.find('signalType', 'form.answered')?.id;
  return catalogue.all('form').flatMap(({ id, key, name, body }): readonly WayTo[] => {
    const giving = body.questions.flatMap((question) => {
      const rows = rowsOf(question).filter(
        (row) => (wanted.of === 'tag' && row.add?.includes(wanted.id)) || namesIt(catalogue, wanted, row.does ?? []),
      );
      const always = namesIt(catalogue, wanted, question.does ?? []);
      return rows.length > 0 || always ? [{ question, rows }] : [];
    });
    const isDone = wanted.of === 'tag' && body.doneTags?.includes(wanted.id) === true;
    if (giving.length === 0 && !isDone) return [];
    const sent = (answered === undefined ? [] : (state.signals.get(answered) ?? [])).filter(({ details }) => details['form'] === key);
    const lines = [
      { words: 'they answer it', holds: sent.length > 0 },
      ...giving.map(({ question, rows }) => ({
        words: `“${question.label}” with ${rows.map((row) => `“${nameOfRow(row)}”`).join(' or ') || 'anything'}`,
        holds: sent.some(({ details }) => {
          const answer = answerIn(details, question.key);
          return rows.length === 0 ? isAnswered(answer) : rowsFor(question, answer).some((row) => rows.includes(row));
        }),
      })),
    ];
    const gave = isDone || lines.slice(1).some((line) => line.holds);
    // Who was given it by a row alone, or for having come to the end, was asked by no bundle.
    const byRow = isDone || giving.some(({ rows }) => rows.some((row) => wanted.of === 'tag' && row.add?.includes(wanted.id)));
    const asks = byRow
      ? []
      : bundleLines(
          asking,
          giving.flatMap(({ question, rows }) => [...rows.flatMap((row) => row.does ?? []), ...(question.does ?? [])]),
        );
    const failing = asks.find((line) => !line.holds);
    const because =
      sent.length === 0
        ? 'They have not answered it.'
        : !gave
          ? 'They answered it otherwise.'
          : failing
            ? notSo(failing)
            : 'They answered so, and it has gone since.';
    return [{ kind: 'form', id, key, name, lines: [...lines, ...asks], because }];
  });
}

const nameOfRow = (row: AnswerRow): string => ('name' in row && typeof row.name === 'string' ? row.name : row.key);

/** An answer as it came with a signal, from the details that are kept of it. */
function answerIn(details: Details, question: string): unknown {
  const { answers } = details;
  const answer = typeof answers === 'object' && !Array.isArray(answers) ? (answers as Details)[question] : undefined;
  if (Array.isArray(answer)) return (answer as readonly Details[]).map((element) => element[ELEMENT]);
  return typeof answer === 'number' ? answer / 1_000_000 : answer;
}

/** Stages of deals with which the ladder is kept in step. */
export function dealWays(asking: Asking): readonly WayTo[] {
  const { compiled, state, wanted } = asking;
  const { catalogue } = compiled;
  const deals = catalogue.body('stage', wanted.id)?.deals ?? [];
  return deals.flatMap(({ pipeline, stage }): readonly WayTo[] => {
    const found = catalogue.get('pipeline', pipeline);
    if (!found) return [];
    const { id, key, name, body } = found;
    const lines = [
      {
        words: `a deal of theirs comes to ${body.stages.find((each) => each.key === stage)?.name ?? stage}`,
        holds: [...state.deals.values()].some((deal) => deal.pipeline === pipeline && deal.stage === stage),
      },
      ...gateLines(asking),
    ];
    const failing = lines.find((line) => !line.holds);
    return [
      {
        kind: 'pipeline',
        id,
        key,
        name,
        lines,
        because: failing ? notSo(failing) : 'It does it when a deal comes there again.',
      },
    ];
  });
}

/** Facts with which the ladder is kept in step. */
export function factWays(asking: Asking): readonly WayTo[] {
  const { compiled, state, wanted } = asking;
  const { catalogue } = compiled;
  return (catalogue.body('stage', wanted.id)?.facts ?? []).flatMap((fact): readonly WayTo[] => {
    const found = catalogue.get('field', fact.field);
    if (!found) return [];
    const { id, key, name, body } = found;
    const isSo = state.facts.get(fact.field) === optionOf(body, fact.value);
    const lines = [{ words: stepFactWords(fact, catalogue), holds: isSo }, ...gateLines(asking)];
    const failing = lines.find((line) => !line.holds);
    return [{ kind: 'field', id, key, name, lines, because: failing ? notSo(failing) : 'It does it when it becomes that again.' }];
  });
}

/** Bundles that give it when they are run by hand. */
export function bundleWays(asking: Asking): readonly WayTo[] {
  return asking.compiled.catalogue
    .all('bundle')
    .filter(({ body }) => body.then.some((step) => gives(asking.wanted)(step.action)))
    .map(({ id, key, name }) => {
      const lines = bundleLines(asking, [{ do: 'run bundle', bundle: id }]);
      const failing = lines.find((line) => !line.holds);
      return { kind: 'bundle', id, key, name, lines, because: failing ? notSo(failing) : 'It does it when it is run by hand.' };
    });
}
