import { LANGUAGE_CODES, languageName, type TagBody } from '@eager-sieve/core';
import { Choice } from '../conditions/lines/inputs';

const byName = LANGUAGE_CODES.map((code) => [code, languageName(code) ?? code] as const).sort(([, a], [, b]) => (a < b ? -1 : 1));

/** A body with its labels, or without the property where there are none. */
export function withLabels<Body extends Pick<TagBody, 'labels'>>(body: Body, labels: Readonly<Record<string, string>>): Body {
  const { labels: _before, ...rest } = body;
  return (Object.keys(labels).length > 0 ? { ...rest, labels } : rest) as Body;
}

interface TagLabelsProps {
  readonly value: TagBody['labels'];
  readonly onChange: (labels: Readonly<Record<string, string>>) => void;
}

/** What a tag is called in other languages. */
export function TagLabels({ value = {}, onChange }: TagLabelsProps) {
  const left = byName.filter(([code]) => !(code in value));
  const without = (code: string): Readonly<Record<string, string>> =>
    Object.fromEntries(Object.entries(value).filter(([each]) => each !== code));
  return (
    <fieldset className="mt-3">
      <legend className="mb-1 font-medium">In other languages</legend>
      <ul className="flex flex-col gap-1.5">
        {Object.entries(value).map(([code, label]) => {
          const language = languageName(code) ?? code;
          return (
            <li key={code} className="flex items-center gap-2">
              <span className="quiet w-28">{language}</span>
              <input
                className="input input-sm min-w-0 flex-1"
                lang={code}
                maxLength={120}
                aria-label={`What it is called in ${language}`}
                value={label}
                onChange={(event) => onChange({ ...value, [code]: event.target.value })}
              />
              <button type="button" className="btn btn-xs" aria-label={`Take ${language} out`} onClick={() => onChange(without(code))}>
                Take out
              </button>
            </li>
          );
        })}
      </ul>
      <div className="mt-1.5">
        <Choice
          label="Add a language"
          value=""
          choices={[['', '+ language'], ...left]}
          onPick={(code) => code !== '' && onChange({ ...value, [code]: '' })}
        />
      </div>
    </fieldset>
  );
}
