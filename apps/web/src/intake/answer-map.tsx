import { isWritten, type AnswerGroup, type Catalogue, type FormBody, type Question } from '@eager-sieve/core';
import { type FormResults } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { type Draft } from '../app/use-draft';
import { Actions } from '../rules/actions';
import { AlsoCalled } from '../ui/also-called';
import { FaultsAt } from '../ui/faults-at';
import { people, times } from '../ui/number';
import { Tag } from '../ui/tag';
import { actionsOf, caughtBy, grouped, mappable, newGroup, unmappedIn, withActions } from './answer-rows';
import { MapBefore } from './map-before';
import { Check } from './question-editor';
import { Limit } from './question-ways';

type Results = FormResults['questions'];
const answersTo = (results: Results, key: string): Results[number]['answers'] => results.find((each) => each.key === key)?.answers ?? [];

/** What each answer does: one table for the whole form. */
export function AnswerMap({ draft }: { draft: Draft<'form'> }) {
  const { body: form, catalogue, setBody, isNew, itemKey } = draft;
  const { data } = api.useFormResultsQuery({ key: itemKey }, { skip: isNew });
  const results = data?.questions ?? [];
  const put = (index: number, next: Question): void => setBody({ ...form, questions: form.questions.with(index, next) });
  const all = mappable(form);
  return (
    <div className="flex flex-col gap-5">
      <WholeForm form={form} catalogue={catalogue} onChange={setBody} />
      {!isNew && <MapBefore draft={draft} />}
      {all.length === 0 && <p className="quiet">None of the questions has answers that could do something yet.</p>}
      {all.map(({ question, index }) => (
        <section key={index} aria-label={question.label || question.key}>
          <h2 className="mb-1.5 text-[15px]">{question.label || 'A question without words'}</h2>
          <FaultsAt path={['questions', index, 'groups']} />
          {question.options ? (
            <ChoiceRows
              question={question}
              catalogue={catalogue}
              answers={answersTo(results, question.key)}
              onChange={(next) => put(index, next)}
            />
          ) : (
            <GroupRows
              question={question}
              catalogue={catalogue}
              answers={answersTo(results, question.key)}
              onChange={(next) => put(index, next)}
            />
          )}
        </section>
      ))}
    </div>
  );
}

/** What goes for all answers together. */
function WholeForm({ form, catalogue, onChange }: { form: FormBody; catalogue: Catalogue; onChange: (form: FormBody) => void }) {
  const done = form.doneTags ?? [];
  return (
    <div className="flex flex-col gap-2">
      <Check
        words="Only the last answer that does something counts: the one that ends the way"
        checked={form.onlyLast ?? false}
        onChange={(onlyLast) => onChange({ ...form, onlyLast })}
      />
      <p className="flex flex-wrap items-center gap-2">
        Whoever answers to the end gets
        {done.map((id) => (
          <span key={id} className="group inline-flex items-center gap-1">
            <Tag name={catalogue.get('tag', id as never)?.key ?? 'a tag that is gone'} />
            <button type="button" className="row-tool" onClick={() => onChange({ ...form, doneTags: done.filter((each) => each !== id) })}>
              remove
            </button>
          </span>
        ))}
        <select
          className="select select-sm w-auto"
          aria-label="Add a tag for whoever answers to the end"
          value=""
          onChange={(event) => event.target.value && onChange({ ...form, doneTags: [...new Set([...done, Number(event.target.value)])] })}
        >
          <option value="">{done.length > 0 ? 'one more tag …' : 'no tag'}</option>
          {catalogue
            .all('tag')
            .filter((tag) => tag.body.value === undefined && !done.includes(tag.id))
            .map((tag) => (
              <option key={tag.key} value={tag.id}>
                {tag.key}
              </option>
            ))}
        </select>
      </p>
    </div>
  );
}

interface RowsProps {
  readonly question: Question;
  readonly catalogue: Catalogue;
  readonly answers: Results[number]['answers'];
  readonly onChange: (question: Question) => void;
}

function ChoiceRows({ question, catalogue, answers, onChange }: RowsProps) {
  const options = question.options ?? [];
  return (
    <table className="table w-full">
      <thead>
        <tr className="quiet text-left text-[12px]">
          <th className="w-56">Answer</th>
          <th className="w-28 text-right">Given by</th>
          <th>What it does</th>
        </tr>
      </thead>
      <tbody>
        {options.map((option, at) => (
          <tr key={option.key} className="group align-top">
            <td className="font-medium">{option.name || 'no words yet'}</td>
            <td className="text-right whitespace-nowrap">{people(answers.find(({ answer }) => answer === option.name)?.people ?? 0)}</td>
            <td>
              <Actions
                actions={actionsOf(option)}
                catalogue={catalogue}
                mayBeEmpty
                onChange={(actions) => onChange({ ...question, options: options.with(at, withActions(option, actions)) })}
              />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Groups of answers that mean the same, and below them what falls into none. */
function GroupRows({ question, catalogue, answers, onChange }: RowsProps) {
  const groups = question.groups ?? [];
  const isText = isWritten(question.type);
  const put = (next: readonly AnswerGroup[]): void => {
    const { groups: _groups, ...without } = question;
    onChange(next.length > 0 ? { ...without, groups: [...next] } : without);
  };
  const left = isText ? unmappedIn(question, answers) : [];
  return (
    <>
      {groups.length > 0 && (
        <table className="table w-full">
          <thead>
            <tr className="quiet text-left text-[12px]">
              <th className="w-64">{isText ? 'One of these words stands in it' : 'The answer is'}</th>
              <th className="w-64">Answers that it takes</th>
              <th>What it does</th>
            </tr>
          </thead>
          <tbody>
            {groups.map((group, at) => {
              const change = (next: AnswerGroup): void => put(groups.with(at, next));
              return (
                <tr key={group.key} className="group align-top">
                  <td>
                    <input
                      className="input input-sm mb-1 w-full font-medium"
                      aria-label={`Name of group ${at + 1}`}
                      value={group.name}
                      onChange={(event) => change({ ...group, name: event.target.value })}
                    />
                    {isText ? (
                      <AlsoCalled
                        label={`Words of ${group.name}`}
                        value={group.words}
                        onChange={(words) => change({ ...group, words: words ?? [] })}
                      />
                    ) : (
                      <span className="inline-flex items-center gap-1.5">
                        from
                        <Limit
                          label={`Lowest of ${group.name}`}
                          value={group.from}
                          onChange={(from) => change(withLimits(group, from, group.to))}
                        />
                        to
                        <Limit
                          label={`Highest of ${group.name}`}
                          value={group.to}
                          onChange={(to) => change(withLimits(group, group.from, to))}
                        />
                      </span>
                    )}
                    <button type="button" className="row-tool mt-1" onClick={() => put(groups.toSpliced(at, 1))}>
                      remove the group
                    </button>
                  </td>
                  <td>
                    <Caught answers={caughtBy(question, group, answers)} />
                  </td>
                  <td>
                    <Actions
                      actions={actionsOf(group)}
                      catalogue={catalogue}
                      mayBeEmpty
                      onChange={(actions) => change(withActions(group, actions))}
                    />
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
      <button type="button" className="btn btn-xs mt-1.5" onClick={() => put([...groups, newGroup(question, isText ? '' : undefined)])}>
        + group of answers
      </button>
      {left.length > 0 && <Unmapped question={question} answers={left} onChange={onChange} />}
    </>
  );
}

const withLimits = ({ from: _from, to: _to, ...group }: AnswerGroup, from: number | undefined, to: number | undefined): AnswerGroup => ({
  ...group,
  ...(from === undefined ? {} : { from }),
  ...(to === undefined ? {} : { to }),
});

const SHOWN = 5;

function Caught({ answers }: { answers: RowsProps['answers'] }) {
  if (answers.length === 0) return <span className="quiet">none that was given so far</span>;
  const more = answers.length - SHOWN;
  return (
    <ul>
      {answers.slice(0, SHOWN).map(({ answer, people: n }) => (
        <li key={answer} className="flex justify-between gap-2">
          <span className="min-w-0 truncate" title={answer}>
            {answer}
          </span>
          <span className="quiet">{n}</span>
        </li>
      ))}
      {more > 0 && <li className="quiet">and {times(more, 'other answer')}</li>}
    </ul>
  );
}

/** Answers that fall into no group, each put into one in one step. */
function Unmapped({ question, answers, onChange }: Pick<RowsProps, 'question' | 'answers' | 'onChange'>) {
  const groups = question.groups ?? [];
  const into = (answer: string, key: string): void => {
    if (key !== 'new') return onChange(grouped(question, answer, key));
    onChange({ ...question, groups: [...groups, newGroup(question, answer)] });
  };
  return (
    <details className="mt-2" open={groups.length > 0}>
      <summary className="cursor-pointer">
        {times(answers.length, 'answer')} in no group, given by {people(answers.reduce((sum, each) => sum + each.people, 0))}
      </summary>
      <ul
        className="panel divide-base-300/60 mt-1.5 max-h-72 divide-y overflow-y-auto"
        tabIndex={0}
        aria-label={`Answers to ${question.label} in no group`}
      >
        {answers.map(({ answer, people: n }) => (
          <li key={answer} className="flex items-center justify-between gap-3 px-3 py-1">
            <span className="min-w-0 truncate" title={answer}>
              {answer}
            </span>
            <span className="flex flex-none items-center gap-3">
              <span className="quiet">{people(n)}</span>
              <select
                className="select select-sm w-44"
                aria-label={`Put ${answer} into a group`}
                value=""
                onChange={(event) => event.target.value && into(answer, event.target.value)}
              >
                <option value="">put into …</option>
                {groups.map((group) => (
                  <option key={group.key} value={group.key}>
                    {group.name}
                  </option>
                ))}
                <option value="new">a group of its own</option>
              </select>
            </span>
          </li>
        ))}
      </ul>
    </details>
  );
}
