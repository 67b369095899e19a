import { readFact } from '../contacts/facts.ts';
import { countingQuestions, isAnswered, rowsFor, rowsOf, type AnswerRow } from '../forms/answer-map.ts';
import { mustConfirm, type Question } from '../forms/forms.ts';
import { type Signal } from '../intake/signal.ts';
import { type Change } from '../ledger/change.ts';
import { type Definition } from '../settings/definitions.ts';
import { type TagId } from '../settings/ids.ts';
import { type TagReason } from '../tags/definition.ts';
import { ANY, placeOf, reasonOf, type AnswerStep } from './answer-steps.ts';
import { type Compiled } from './compiled.ts';
import { type SubjectState } from './state.ts';
import { fillingOnly, replacesTag } from './unproven.ts';

const isObject = (value: unknown): value is Record<string, unknown> => typeof value === 'object' && value !== null && !Array.isArray(value);

interface Answered {
  readonly form: Definition<'form'>;
  readonly answers: Readonly<Record<string, unknown>>;
  /** whether they came from whoever typed the address */
  readonly isUnproven: boolean;
}

function read(compiled: Compiled, data: unknown): Answered | undefined {
  if (!isObject(data)) return undefined;
  const form = typeof data['form'] === 'string' ? compiled.catalogue.find('form', data['form']) : undefined;
  return form && { form, answers: isObject(data['answers']) ? data['answers'] : {}, isUnproven: data['unproven'] === true };
}

const mayReplace = ({ form, isUnproven }: Answered): boolean => !isUnproven || form.body.answersReplace === true;

/**
 * What answers to a form change: consent, fields, and the tags of its answer map. An answer that is `unproven` does not overturn what the
 * contact said, nor replace what is known of them, unless the form allows it.
 *
 * @param data what was sent: what people wrote is kept as they wrote it
 */
export function answered(compiled: Compiled, state: SubjectState, signal: Signal, data: unknown): readonly Change[] {
  const given = read(compiled, data);
  if (!given) return [];
  const { form, answers, isUnproven } = given;
  const replaces = mayReplace(given);
  const consents = form.body.questions.flatMap((question): readonly Change[] => {
    if (question.type !== 'consent' || answers[question.key] !== true) return [];
    const channel = question.channel ?? 'email';
    if (isUnproven && mustConfirm(form.body, state.consent.get(channel)?.state)) return [];
    return [{ kind: 'consent', channel, state: 'given', at: signal.time }];
  });
  // A broken form sets no fields and gives no tags; its answers and the consent given with them are kept.
  if (compiled.isBroken(form.id)) return consents;
  const fields = form.body.questions.flatMap((question): readonly Change[] => {
    const field = question.field === undefined ? undefined : compiled.catalogue.get('field', question.field);
    if (!field || !isAnswered(answers[question.key]) || (!replaces && state.facts.has(field.id))) return [];
    const value = readFact(field.body, answers[question.key], compiled.catalogue.workspace);
    return value.ok && value.value !== undefined ? [{ kind: 'field', field: field.id, value: value.value }] : [];
  });
  return [...consents, ...fields, ...(signal.historic ? [] : mapped(compiled, state, given))];
}

/**
 * The tags of the answer map. Tags that were given by other answers to the same question lose that reason; where only the last answer counts,
 * those given by any other answer of the form do. An answer that may not replace what is known takes no tag away: where one of those was
 * given to another answer before, the question stays as it was answered then.
 */
function mapped(compiled: Compiled, state: SubjectState, given: Answered): readonly Change[] {
  const { form } = given;
  const replaces = mayReplace(given);
  const isGiven = (tag: TagId): boolean => replaces || !replacesTag(tag, form.id, state, compiled);
  const settling = settledBy(given);
  const { settled, taken, lost } = settling;
  const otherwise = replaces ? new Set<string>() : answeredOtherwise(state, form, settling);
  const open = settled.filter(({ key }) => !otherwise.has(key));
  const added = open.flatMap((question) =>
    (taken.get(question.key) ?? []).flatMap((row): readonly Change[] => [
      ...(row.add ?? [])
        .filter(isGiven)
        .map((tag): Change => ({ kind: 'tag', tag, add: true, reason: reasonOf(form.id, question.key, row.key) })),
      ...(replaces ? (row.remove ?? []) : []).map((tag): Change => ({ kind: 'tag', tag, add: false, reasons: 'all' })),
    ]),
  );
  const done = (form.body.doneTags ?? [])
    .filter(isGiven)
    .map((tag): Change => ({ kind: 'tag', tag, add: true, reason: reasonOf(form.id, ANY, ANY) }));
  const gone = replaces ? lost.map(({ tag, reason }): Change => ({ kind: 'tag', tag, add: false, reasons: reason })) : [];
  return [...gone, ...added, ...done];
}

interface Settled {
  /** the questions that an answer settles: those that it counts for, or all of them where only the last answer counts */
  readonly settled: readonly Question[];
  /** the rows of the map that it takes, by the key of the question */
  readonly taken: ReadonlyMap<string, readonly AnswerRow[]>;
  /** the tags of the others */
  readonly lost: readonly { readonly question: string; readonly tag: TagId; readonly reason: TagReason }[];
}

function settledBy({ form, answers }: Answered): Settled {
  const counting = countingQuestions(form.body, answers);
  const all = form.body.onlyLast && counting.size > 0;
  const settled = all ? form.body.questions : form.body.onlyLast ? [] : form.body.questions.filter(({ key }) => counting.has(key));
  const taken = new Map(
    settled.map((question) => [question.key, counting.has(question.key) ? rowsFor(question, answers[question.key]) : []]),
  );
  const lost = settled.flatMap((question) =>
    rowsOf(question)
      .filter((row) => !taken.get(question.key)?.includes(row))
      .flatMap((row) => tagsOf(row).map((tag) => ({ question: question.key, tag, reason: reasonOf(form.id, question.key, row.key) }))),
  );
  return { settled, taken, lost };
}

/** The keys of the questions that were answered in another way before: of each of them, or of all where only the last answer counts. */
function answeredOtherwise(state: SubjectState, form: Definition<'form'>, { settled, lost }: Settled): ReadonlySet<string> {
  const held = lost.filter(({ tag, reason }) => isHeldFor(state, tag, reason)).map(({ question }) => question);
  return new Set(form.body.onlyLast && held.length > 0 ? settled.map(({ key }) => key) : held);
}

const isHeldFor = ({ tags }: SubjectState, tag: TagId, reason: TagReason): boolean =>
  tags.get(tag)?.reasons.some(({ kind, ref }) => kind === reason.kind && ref === reason.ref) ?? false;

/** Every tag that a row gives, by its list of tags or by what else it does. */
const tagsOf = ({ add = [], does = [] }: AnswerRow): readonly number[] => [
  ...add,
  ...does.flatMap((action) => (action.do === 'add tag' ? [action.tag] : [])),
];

/**
 * The changes by which the tags of a contact come to be what the answer map gives for answers as it is now; none where they are so already.
 *
 * @param data of the signal by which the answers came
 */
export function mappedAgain(compiled: Compiled, state: SubjectState, data: unknown): readonly Change[] {
  const given = read(compiled, data);
  if (!given || compiled.isBroken(given.form.id)) return [];
  const changes = mapped(compiled, state, given);
  return changes.filter((change) => {
    if (change.kind !== 'tag') return true;
    const held = state.tags.get(change.tag);
    if (change.add) return !isHeldFor(state, change.tag, change.reason);
    const { reasons } = change;
    return (
      held !== undefined &&
      (reasons === 'all' || held.reasons.some(({ kind, ref }) => kind === reasons.kind && 'ref' in reasons && ref === reasons.ref))
    );
  });
}

interface Followed {
  /** whose map says so */
  readonly form: Definition<'form'>;
  /** those whose conditions hold */
  readonly steps: readonly AnswerStep[];
  /** whether they only fill in what is not known yet */
  readonly fills: boolean;
}

/** What is done about answers, once all of them have been applied. */
export function stepsFor(
  compiled: Compiled,
  state: SubjectState,
  signal: Signal,
  data: unknown,
  isReady: (step: AnswerStep) => boolean,
): Followed | undefined {
  const given = signal.historic ? undefined : read(compiled, data);
  const steps = given && compiled.answerSteps(given.form.id);
  if (!given || !steps || steps.size === 0) return undefined;
  const { form, answers } = given;
  const counting = countingQuestions(form.body, answers);
  const ready = form.body.questions
    .filter(({ key }) => counting.has(key))
    .flatMap((question) =>
      [
        ...(steps.get(placeOf(question.key, ANY)) ?? []),
        ...rowsFor(question, answers[question.key]).flatMap((row) => steps.get(placeOf(question.key, row.key)) ?? []),
      ].map((step) => ({ key: question.key, step })),
    )
    .filter(({ step }) => isReady(step));
  if (mayReplace(given)) return { form, steps: ready.map(({ step }) => step), fills: false };
  const otherwise = answeredOtherwise(state, form, settledBy(given));
  const filling = ready.flatMap(({ key, step }) => {
    if (step.action.do === 'add tag' && otherwise.has(key)) return [];
    const action = fillingOnly(step.action, form.id, state, compiled);
    return action ? [{ ...step, action }] : [];
  });
  return { form, steps: filling, fills: true };
}
