import { type Draft } from '../app/use-draft';
import { ChoiceList } from '../ui/choice-list';
import { DefinitionPage, Editing } from '../ui/definition-page';
import { definitionRoute } from '../ui/definition-route';
import { AlsoCalled, withSynonyms } from '../ui/also-called';
import { FaultsAt } from '../ui/faults-at';
import { Empty } from '../ui/states';
import { FIELD_OF } from './new-field';

/** One field: its name and its choices. Of whom it is and what it keeps stays as it was made. */
function FieldPage({ draft }: { draft: Draft<'field'> }) {
  const { itemKey, body, setBody } = draft;
  return (
    <DefinitionPage draft={draft} thing="field" sentence={`A fact about ${FIELD_OF[body.of]}: ${body.type}. Programs call it ${itemKey}.`}>
      <Editing>
        <label className="mb-3 block max-w-[620px]">
          <span className="mb-1 block font-medium">Also called</span>
          <AlsoCalled value={body.synonyms} onChange={(synonyms) => setBody(withSynonyms(body, synonyms))} />
        </label>
        <FaultsAt path={['synonyms']} />
        <Words draft={draft} />
        {body.options && (
          <>
            <h2 className="mb-1.5 text-[15px]">Choices</h2>
            <ChoiceList label="Choices" choices={body.options} onChange={(options) => setBody({ ...body, options })} withSynonyms />
          </>
        )}
        <FaultsAt path={['options']} />
      </Editing>
    </DefinitionPage>
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
