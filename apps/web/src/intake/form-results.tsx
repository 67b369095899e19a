import { waysOf, type Catalogue, type FormBody } from '@eager-sieve/core';
import { type FormResults as Results } from '@eager-sieve/contracts';
import { max, scaleLinear } from 'd3';
import { useState } from 'react';
import { Link } from 'react-router';
import { api } from '../app/api';
import { Choice } from '../conditions/lines/inputs';
import { Earlier } from '../ui/earlier';
import { count, people, times } from '../ui/number';
import { Empty, Loading, Wrong } from '../ui/states';
import { When } from '../ui/when';
import { FormMap } from './form-map';

const PERIODS: readonly (readonly [string, string])[] = [
  ['7', 'the last 7 days'],
  ['30', 'the last 30 days'],
  ['90', 'the last 90 days'],
  ['', 'all the time'],
];

/** How a form goes: what is answered, which ways are taken, where people leave it, and each answer. */
export function FormResults({ formKey, form }: { formKey: string; form: FormBody; catalogue: Catalogue }) {
  const [days, setDays] = useState('30');
  const { data, error, refetch } = api.useFormResultsQuery({ key: formKey, ...(days === '' ? {} : { days: Number(days) }) });
  if (error) return <Wrong error={error} again={() => void refetch()} />;
  if (!data) return <Loading />;
  return (
    <div className="flex flex-col gap-6">
      <div className="flex flex-wrap items-baseline gap-x-6 gap-y-1">
        <Choice label="Of which time" value={days} choices={PERIODS} onPick={setDays} />
        <span>
          <b>{count(data.sent)}</b> {data.sent === 1 ? 'answer' : 'answers'}
        </span>
        <span className="quiet">
          opened {times(data.views, 'time')}, begun {times(data.begun, 'time')}
        </span>
      </div>
      {data.sent === 0 ? (
        <Empty title="Nobody has answered in this time">Whoever fills in its public page is counted here.</Empty>
      ) : (
        <div className="grid grid-cols-[minmax(0,1fr)_330px] gap-8 max-lg:grid-cols-1">
          <div className="flex flex-col gap-5">
            {form.questions.map((question, index) => {
              const result = data.questions[index];
              return result && <Answered key={question.key} label={question.label} result={result} />;
            })}
          </div>
          <section>
            <h2 className="mb-1.5 text-[15px]">Ways taken</h2>
            <FormMap
              form={form}
              ways={waysOf(form.questions)}
              taken={new Map(data.ways.map(({ from, to, people: n }) => [`${from}>${to ?? ''}`, n]))}
            />
            <Left form={form} results={data} />
          </section>
        </div>
      )}
      <SingleAnswers formKey={formKey} form={form} />
    </div>
  );
}

const BAR = 180;
const SHOWN = 12;

function Answered({ label, result }: { label: string; result: Results['questions'][number] }) {
  const [all, setAll] = useState(false);
  const x = scaleLinear([0, Math.max(1, max(result.answers, (each) => each.people) ?? 1)], [0, BAR]);
  const shown = all ? result.answers : result.answers.slice(0, SHOWN);
  return (
    <section>
      <h2 className="text-[15px]">{label}</h2>
      <p className="quiet mb-1">
        answered by {people(result.answered)}
        {result.unmapped > 0 && `, ${count(result.unmapped)} in no group`}
      </p>
      <ul className="flex flex-col gap-0.5">
        {shown.map(({ answer, people: n, rows }) => (
          <li key={answer} className="grid grid-cols-[minmax(0,22rem)_190px_70px] items-center gap-2">
            <span className="truncate" title={answer}>
              {answer} {rows.length > 0 && !rows.includes(answer) && <span className="quiet">{rows.join(', ')}</span>}
            </span>
            <svg width={BAR} height={12} aria-hidden>
              <rect width={x(n)} height={12} className="fill-primary" />
            </svg>
            <span className="text-right">{count(n)}</span>
          </li>
        ))}
      </ul>
      {result.answers.length > SHOWN && (
        <button type="button" className="leads mt-1 min-h-6" onClick={() => setAll(!all)}>
          {all ? 'only the most frequent' : `all ${count(result.answers.length)}`}
        </button>
      )}
      {result.distinct > result.answers.length && result.answers.length > 0 && (
        <p className="quiet">
          the {count(result.answers.length)} most frequent of {count(result.distinct)} different answers
        </p>
      )}
    </section>
  );
}

function Left({ form, results }: { form: FormBody; results: Results }) {
  const left = results.questions.filter((each) => each.left > 0);
  if (left.length === 0) return <p className="quiet mt-2">Nobody who went on from the first page has left it since.</p>;
  return (
    <>
      <h2 className="mt-4 mb-1.5 text-[15px]">Where people left</h2>
      <ul>
        {left.map(({ key, left: n }) => (
          <li key={key}>
            after “{form.questions.find((each) => each.key === key)?.label ?? key}”: {people(n)}
          </li>
        ))}
      </ul>
    </>
  );
}

function SingleAnswers({ formKey, form }: { formKey: string; form: FormBody }) {
  const list = api.useFormAnswersInfiniteQuery({ key: formKey });
  const rows = list.data?.pages.flatMap((page) => page.rows) ?? [];
  if (list.error) return <Wrong error={list.error} />;
  if (!list.data) return <Loading />;
  if (rows.length === 0) return null;
  const asked = form.questions.filter(({ type }) => type !== 'email' && type !== 'consent');
  return (
    <section>
      <div className="mb-1.5 flex items-baseline justify-between">
        <h2 className="text-[15px]">Each answer</h2>
        <a className="leads" download href={`/api/app/forms/${formKey}/answers?format=csv`}>
          All as CSV
        </a>
      </div>
      <div className="overflow-x-auto" tabIndex={0} role="region" aria-label="Each answer">
        <table className="table w-full">
          <thead>
            <tr className="quiet text-left text-[12px]">
              <th>Who</th>
              <th>When</th>
              {asked.map(({ key, label }) => (
                <th key={key} className="max-w-48 truncate" title={label}>
                  {label}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row, index) => (
              <tr key={index}>
                <td>
                  <Link className="leads block max-w-44 truncate" to={`/people/${row.contact}`}>
                    {row.name}
                  </Link>
                </td>
                <td className="whitespace-nowrap">
                  <When at={row.at} />
                </td>
                {asked.map((question) => (
                  <td key={question.key} className="max-w-48 truncate" title={shown(question, row.answers[question.key])}>
                    {shown(question, row.answers[question.key])}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <Earlier list={list} />
    </section>
  );
}

const shown = ({ options = [] }: FormBody['questions'][number], answer: unknown): string =>
  [answer ?? []]
    .flat()
    .map((one) => options.find(({ key }) => key === one)?.name ?? String(one))
    .join(', ');
