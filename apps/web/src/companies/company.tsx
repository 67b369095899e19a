import { Link, useParams } from 'react-router';
import { PARENT_COMPANY, type Catalogue, type Definition } from '@eager-sieve/core';
import { type CompanyView } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { useCatalogue } from '../app/use-catalogue';
import { useMay } from '../app/use-may';
import { CompanyTimeline } from '../contacts/timeline';
import { Deals } from '../deals/deals';
import { FactRow } from '../ui/fact-row';
import { count, people } from '../ui/number';
import { ReadOnly } from '../ui/offer';
import { Page } from '../ui/page';
import { Score } from '../ui/score';
import { CutShort, Loading, Wrong } from '../ui/states';
import { Why } from '../ui/why';
import { Memberships } from '../ui/memberships';
import { Branches, ParentRow } from './branches';
import { CompanyDone } from './company-done';
import { useCompanyWrite } from './use-company-write';
import { CompanyTasks } from './company-tasks';
import { Attachments } from '../tasks/attachments';
import { Notes } from '../tasks/notes';
import { Wide } from '../ui/wide';

export default function CompanyPage() {
  const { id = '' } = useParams();
  const catalogue = useCatalogue();
  const mayWrite = useMay('contacts:write');
  const { data: company, error, refetch } = api.useCompanyQuery({ id });
  if (error) return <Wrong error={error} again={() => void refetch()} />;
  if (!company || !catalogue) return <Loading />;
  return (
    <Page title={company.name} meta={`${company.outsideId} · ${people(company.contacts)}`}>
      <ReadOnly value={!mayWrite}>
        <div className="border-base-300 grid min-h-0 flex-1 grid-cols-[320px_minmax(0,1fr)] border-t max-lg:grid-cols-1">
          <div className="py-4 pr-5">
            <CompanyTasks company={company} />
            <CompanyFacts company={company} catalogue={catalogue} />
            <section className="mb-4">
              <h2 className="mb-1.5 text-[14px]">Scores</h2>
              {company.scores.map((score) => (
                <div key={score.key} className="mb-2.5" data-fact>
                  <Score points={score.points} band={score.band} card={catalogue.find('scorecard', score.key)?.body} name={score.name} />
                  <Why subject={{ whose: { company: company.id }, of: 'band', key: score.key }} label={`this band of ${score.name}`} />
                </div>
              ))}
              {company.scores.length === 0 && <p className="quiet">No scorecard is about companies yet.</p>}
            </section>
            <CompanyAudiences company={company} catalogue={catalogue} />
            <div className="mt-4">
              <Notes about={{ company: company.id }} />
              <Attachments about={{ company: company.id }} />
            </div>
          </div>
          <div className="border-base-300 flex flex-col gap-6 border-l py-4 pl-5 max-lg:border-l-0 max-lg:pl-0">
            <Its company={company} />
            <Branches company={company} />
            <Deals deals={company.deals} catalogue={catalogue} holder={{ company: company.outsideId }} />
            <CompanyTimeline companyId={company.id} />
            <CompanyDone company={company} />
          </div>
        </div>
      </ReadOnly>
    </Page>
  );
}

function CompanyAudiences({ company, catalogue }: { company: CompanyView; catalogue: Catalogue }) {
  const [write] = useCompanyWrite();
  const put = (audience: Definition<'audience'>, on: boolean): Promise<boolean> =>
    write(
      { outsideId: company.outsideId, lists: { [audience.key]: on } },
      { text: `${company.name} is ${on ? 'on' : 'off'} ${audience.name}.`, undo: () => put(audience, !on) },
    );
  return (
    <Memberships
      whose={{ company: company.id }}
      inside={company.audiences}
      all={catalogue.all('audience').filter((audience) => audience.body.of === 'company')}
      onPut={(audience, on) => void put(audience, on)}
    />
  );
}

const NOT_EDITED = new Set(['company-name', 'added', PARENT_COMPANY]);

function CompanyFacts({ company, catalogue }: { company: CompanyView; catalogue: Catalogue }) {
  const [write] = useCompanyWrite();
  const set = (key: string, value: unknown): Promise<boolean> => write({ outsideId: company.outsideId, fields: { [key]: value } });
  const values = new Map(company.fields.map((field) => [field.key, field]));
  return (
    <section className="mb-4">
      <h2 className="mb-1.5 text-[14px]">Facts</h2>
      <dl className="grid grid-cols-[112px_1fr] gap-y-1.25">
        {catalogue
          .fields()
          .filter((field) => field.body.of === 'company' && !NOT_EDITED.has(field.key))
          .map((field) => (
            <FactRow
              key={field.key}
              field={field}
              fact={values.get(field.key)}
              whose={{ company: company.id }}
              onSet={(value) => set(field.key, value)}
            />
          ))}
        <ParentRow company={company} onSet={(parent) => set(PARENT_COMPANY, parent)} />
      </dl>
    </section>
  );
}

/** Which parts in a purchase are taken, and by how many: whoever is missing is to be found. */
function Parts({ company: { parts, contacts } }: { company: CompanyView }) {
  if (contacts === 0 || parts.length === 0) return null;
  const missing = parts.filter((part) => part.people === 0);
  const taken = parts.filter((part) => part.people > 0);
  return (
    <p className="mt-1.5 text-[12.5px]">
      {taken.length > 0 && <>{taken.map(({ name, people: many }) => `${name}: ${count(many)}`).join(' · ')}. </>}
      {missing.length > 0 && <span className="quiet">Not known yet: {missing.map(({ name }) => name).join(', ')}.</span>}
    </p>
  );
}

function Its({ company }: { company: CompanyView }) {
  return (
    <section>
      <h2 className="mb-1.5 text-[14px]">Contacts</h2>
      {company.people.length === 0 ? (
        <p className="quiet">No contact is linked to it yet: that is done on the page of the contact.</p>
      ) : (
        <Wide>
          <table className="table w-full min-w-[620px] table-fixed">
            <thead>
              <tr className="quiet text-left text-[12px]">
                <th className="h-6.5 w-[34%]">Contact</th>
                <th className="w-[40%]">Address</th>
                <th>Part in the purchase</th>
              </tr>
            </thead>
            <tbody>
              {company.people.map((person) => (
                <tr key={person.id} className="border-base-300/60 h-9 border-b">
                  <td className="truncate">
                    <Link className="font-semibold hover:underline" to={`/people/${person.id}`}>
                      {person.name}
                    </Link>
                  </td>
                  <td className="truncate">{person.email}</td>
                  <td>{person.part ?? <span className="quiet">not known</span>}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </Wide>
      )}
      <Parts company={company} />
      <CutShort shown={company.people.length} of={company.contacts} how="by name, from the first" />
    </section>
  );
}
