import { type ConsentChannel } from '../settings/consent.ts';
import { readFact } from '../contacts/facts.ts';
import { mustConfirm } from '../intake/forms.ts';
import { type Signal } from '../intake/signal.ts';
import { type Change } from '../ledger/change.ts';
import { type Compiled } from './compiled.ts';
import { mapChanges } from './maps.ts';
import { type SubjectState } from './state.ts';

const CHANNELS: readonly string[] = ['email', 'text', 'chat'];
const isObject = (value: unknown): value is Record<string, unknown> => typeof value === 'object' && value !== null && !Array.isArray(value);

/**
 * What a signal changes by what it is, before any rule: consent given and withdrawn, an address that cannot be reached,
 * the answers that a form keeps in fields or turns into tags, the tag of a chosen link, and what signal maps say.
 *
 * @param data the signal's details as they came: what people wrote is kept as they wrote it
 */
export function signalChanges(compiled: Compiled, state: SubjectState, signal: Signal, data: unknown): readonly Change[] {
  const maps = signal.historic ? [] : compiled.mapsOnSignal(signal.typeId).flatMap((map) => mapChanges(map, signal, state));
  return [...ownChanges(compiled, state, signal, isObject(data) ? data : {}), ...maps];
}

function ownChanges(compiled: Compiled, state: SubjectState, signal: Signal, given: Record<string, unknown>): readonly Change[] {
  const { catalogue } = compiled;
  const type = catalogue.get('signalType', signal.typeId)?.key ?? '';
  const channel = signal.details['channel'];
  const consent = (wanted: 'given' | 'withdrawn' | 'undeliverable', of: unknown): readonly Change[] =>
    CHANNELS.includes(of as string) ? [{ kind: 'consent', channel: of as ConsentChannel, state: wanted, at: signal.time }] : [];
  switch (type) {
    case 'consent.given':
      return consent('given', channel);
    case 'consent.withdrawn':
      return consent('withdrawn', channel);
    case 'message.unsubscribed':
      return consent('withdrawn', channel ?? 'email');
    case 'message.bounced':
      return signal.details['hard'] === 1 ? consent('undeliverable', channel ?? 'email') : [];
    case 'message.clicked':
      return chosenLink(compiled, signal);
    case 'form.answered':
      return answered(compiled, state, signal, given);
    default:
      return [];
  }
}

function chosenLink(compiled: Compiled, signal: Signal): readonly Change[] {
  const { catalogue } = compiled;
  const { campaign, link } = signal.details;
  const message = typeof campaign === 'string' ? catalogue.find('message', campaign) : undefined;
  const chosen = message?.body.links.find((each) => each.key === link);
  if (!message || compiled.isBroken(message.id) || chosen?.tag === undefined) return [];
  return [{ kind: 'tag', tag: chosen.tag, add: true, reason: { kind: 'link', ref: `${message.id}/${chosen.key}` } }];
}

/**
 * An answer that is `unproven` came from whoever typed the address: it does not overturn what the contact said, nor replace what is known of
 * them, unless the form allows it.
 */
function answered(compiled: Compiled, state: SubjectState, signal: Signal, data: Record<string, unknown>): readonly Change[] {
  const { catalogue } = compiled;
  const form = typeof data['form'] === 'string' ? catalogue.find('form', data['form']) : undefined;
  const answers = isObject(data['answers']) ? data['answers'] : {};
  const isUnproven = data['unproven'] === true;
  const replaces = !isUnproven || form?.body.answersReplace === true;
  return (form?.body.questions ?? []).flatMap((question): readonly Change[] => {
    const answer = answers[question.key];
    if (answer === undefined || answer === null || answer === '') return [];
    if (question.type === 'consent') {
      const channel = question.channel ?? 'email';
      const waits = isUnproven && form !== undefined && mustConfirm(form.body, state.consent.get(channel)?.state);
      return answer === true && !waits ? [{ kind: 'consent', channel, state: 'given', at: signal.time }] : [];
    }
    // A broken form sets no fields and gives no tags; its answers and the consent given with them are kept.
    if (compiled.isBroken(form?.id ?? -1)) return [];
    const field = question.field === undefined ? undefined : catalogue.get('field', question.field);
    const isKept = field !== undefined && !replaces && state.facts.has(field.id);
    const value = field && !isKept ? readFact(field.body, answer, catalogue.workspace) : undefined;
    return [
      ...(field && value?.ok && value.value !== undefined ? [{ kind: 'field' as const, field: field.id, value: value.value }] : []),
      ...(signal.historic ? [] : answerMap(form?.id ?? 0, question, answer, replaces)),
    ];
  });
}

/**
 * The tags that the chosen options give. Tags given by other options of the same question lose that reason.
 *
 * @param replaces whether tags that came from elsewhere go too, where the choice takes them off
 */
function answerMap(
  form: number,
  question: {
    readonly key: string;
    readonly options?: readonly { key: string; add?: number[] | undefined; remove?: number[] | undefined }[] | undefined;
  },
  answer: unknown,
  replaces: boolean,
): readonly Change[] {
  const chosen = new Set([answer].flat());
  const options = question.options ?? [];
  const reason = (option: string) => ({ kind: 'form' as const, ref: `${form}/${question.key}/${option}` });
  return [
    ...options
      .filter((option) => !chosen.has(option.key))
      .flatMap((option) => (option.add ?? []).map((tag): Change => ({ kind: 'tag', tag, add: false, reasons: reason(option.key) }))),
    ...options
      .filter((option) => chosen.has(option.key))
      .flatMap((option): readonly Change[] => [
        ...(option.add ?? []).map((tag): Change => ({ kind: 'tag', tag, add: true, reason: reason(option.key) })),
        ...(replaces ? (option.remove ?? []) : []).map((tag): Change => ({ kind: 'tag', tag, add: false, reasons: 'all' })),
      ]),
  ];
}
