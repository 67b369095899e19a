import { builtInFields, choicesOf, ownFields, UNIQUE_TYPES } from '@eager-sieve/core';
import { type FieldFigures } from '@eager-sieve/contracts';
import { useState } from 'react';
import { Link } from 'react-router';
import { api } from '../app/api';
import { type Draft } from '../app/use-draft';
import { useMayCall } from '../app/use-may';
import { tableAddress } from '../contacts/table/view';
import { ChoiceList } from '../ui/choice-list';
import { DefinitionPage, Editing } from '../ui/definition-page';
import { definitionRoute } from '../ui/definition-route';
import { AlsoCalled, withSynonyms } from '../ui/also-called';
import { FaultsAt } from '../ui/faults-at';
import { DialogButton } from '../ui/dialog-button';
import { count } from '../ui/number';
import { OfferCall } from '../ui/offer';
import { Empty } from '../ui/states';
import { Toggle } from '../ui/toggle';
import { ChangeType } from './change-type';
import { MergeChoice } from './merge-choice';
import { FIELD_OF } from './new-field';

/** One field: its name, what is asked of its values, and its choices. Of whom it is stays as it was made. */
function FieldPage({ draft }: { draft: Draft<'field'> }) {
  const { itemKey, body, setBody } = draft;
  const mayCount = useMayCall('fieldFigures');
  const { data: figures } = api.useFieldFiguresQuery({ key: itemKey }, { skip: !mayCount });
  return (
    <DefinitionPage
      draft={draft}
      thing="field"
      sentence={`A fact about ${FIELD_OF[body.of]}: ${body.type}. Programs call it ${itemKey}.`}
      also={<TypeChange draft={draft} />}
    >
      {figures && <Held draft={draft} figures={figures} />}
      <Editing>
        <label className="mb-3 block max-w-[620px]">
          <span className="mb-1 block font-medium">Also called</span>
          <AlsoCalled value={body.synonyms} onChange={(synonyms) => setBody(withSynonyms(body, synonyms))} />
        </label>
        <FaultsAt path={['synonyms']} />
        <Words draft={draft} />
        <Demands draft={draft} />
        <Choices draft={draft} figures={figures} />
      </Editing>
    </DefinitionPage>
  );
}

/** How many have a value, and the way to those who should have one. */
function Held({ draft: { saved, itemKey }, figures: { all, have, shared } }: { draft: Draft<'field'>; figures: FieldFigures }) {
  const { of, required } = saved.body;
  const without = tableAddress({ kind: 'field', of: 'contact', field: itemKey, op: 'is empty' });
  return (
    <div className="mb-3">
      <p>
        {count(have)} of {count(all)} {FIELD_OF[of]} have it.
        {required && have < all && (
          <>
            {' '}
            <span className="text-error font-medium">
              {count(all - have)} {all - have === 1 ? 'should have it and has not' : 'should have it and have not'}.
            </span>
          </>
        )}
        {of === 'contact' && have < all && (
          <>
            {' '}
            <Link className="leads" to={without}>
              Show those without
            </Link>
          </>
        )}
      </p>
      {shared.length > 0 && (
        <p className="text-error mt-1">
          Several have the same value all the same: {shared.map(({ value, people }) => `${value} (${count(people)})`).join(', ')}.
        </p>
      )}
    </div>
  );
}

/** What is asked of the values that somebody enters. */
function Demands({ draft: { body, setBody, itemKey } }: { draft: Draft<'field'> }) {
  if (ownFields.includes(itemKey)) return null;
  const put = (part: 'required' | 'unique', isOn: boolean): void => {
    const { [part]: _before, ...rest } = body;
    setBody(isOn ? { ...rest, [part]: true } : rest);
  };
  const ofOne = body.of === 'company' ? 'company' : 'contact';
  return (
    <div className="mb-3 flex flex-col">
      <Toggle
        label="Everyone should have it: it is not emptied by hand, and where it is missing the page says so"
        isOn={body.required ?? false}
        onChange={(isOn) => put('required', isOn)}
      />
      {body.of !== 'deal' && UNIQUE_TYPES.includes(body.type) && (
        <Toggle
          label={`No two have the same: by hand, by a file or by a program, no other ${ofOne} gets a value that one has`}
          isOn={body.unique ?? false}
          onChange={(isOn) => put('unique', isOn)}
        />
      )}
      <FaultsAt path={['unique']} />
    </div>
  );
}

/** The choices that can be made, how many have each, and what became of those that were merged. */
function Choices({ draft: { body, setBody, itemKey, catalogue, saved, changed }, figures }: ChoicesProps) {
  const [merging, setMerging] = useState<string>();
  const field = catalogue.find('field', itemKey);
  if (!body.options) return <FaultsAt path={['options']} />;
  const gone = body.options.filter(({ replacedBy }) => replacedBy !== undefined);
  const nameOf = (key: string | undefined): string => body.options?.find((option) => option.key === key)?.name ?? '';
  const held = new Map(figures?.choices.map(({ key, people }) => [key, people]));
  const isKept = (key: string): boolean => choicesOf(saved.body).some((option) => option.key === key);
  return (
    <>
      <h2 className="mb-1.5 text-[15px]">Choices</h2>
      <ChoiceList
        label="Choices"
        choices={choicesOf(body)}
        onChange={(options) => setBody({ ...body, options: [...options, ...gone] })}
        withSynonyms
        noteOf={({ key }) => (held.has(key) ? `${count(held.get(key) ?? 0)} ${held.get(key) === 1 ? 'has' : 'have'} it` : '')}
        onMerge={({ key }) => ((held.get(key) ?? 0) > 0 && isKept(key) && !changed ? () => setMerging(key) : undefined)}
      />
      {gone.length > 0 && (
        <p className="quiet mt-1.5 text-[12.5px]">
          Merged: {gone.map(({ name, replacedBy }) => `${name} into ${nameOf(replacedBy)}`).join(', ')}.
        </p>
      )}
      <FaultsAt path={['options']} />
      {merging !== undefined && field && <MergeChoice field={field} choice={merging} onClose={() => setMerging(undefined)} />}
    </>
  );
}

interface ChoicesProps {
  readonly draft: Draft<'field'>;
  readonly figures: FieldFigures | undefined;
}

function TypeChange({ draft: { itemKey, catalogue, changed, retired } }: { draft: Draft<'field'> }) {
  const field = catalogue.find('field', itemKey);
  if (!field || retired || ownFields.includes(itemKey) || builtInFields.some(({ key }) => key === itemKey)) return null;
  return (
    <OfferCall to="changeType">
      <DialogButton words="Change the type …" title={`Change the type of ${field.name}`} disabled={changed}>
        {(close) => <ChangeType field={field} onClose={close} />}
      </DialogButton>
    </OfferCall>
  );
}

/** What it is for, and under which heading it stands. An empty one is none. */
function Words({ draft: { body, setBody, catalogue } }: { draft: Draft<'field'> }) {
  const headings = [...new Set(catalogue.all('field').flatMap((field) => field.body.heading ?? []))];
  const put = (part: 'description' | 'heading', text: string): void => {
    const { [part]: _before, ...rest } = body;
    setBody(text === '' ? rest : { ...rest, [part]: text });
  };
  return (
    <>
      <label className="mb-3 block max-w-[620px]">
        <span className="mb-1 block font-medium">What it is for</span>
        <input
          className="input input-sm w-full"
          maxLength={300}
          value={body.description ?? ''}
          onChange={(event) => put('description', event.target.value)}
        />
      </label>
      <label className="mb-3 block max-w-[300px]">
        <span className="mb-1 block font-medium">Stands under the heading</span>
        <input
          className="input input-sm w-full"
          list="headings"
          maxLength={60}
          placeholder="none"
          value={body.heading ?? ''}
          onChange={(event) => put('heading', event.target.value)}
        />
        <datalist id="headings">
          {headings.map((heading) => (
            <option key={heading} value={heading} />
          ))}
        </datalist>
      </label>
    </>
  );
}

export default definitionRoute({
  kind: 'field',
  thing: 'field',
  all: ['/settings/fields', 'Fields'],
  address: '/settings/fields',
  useNew: () => <Empty title="A new field is made among the fields" />,
  Editor: FieldPage,
});
