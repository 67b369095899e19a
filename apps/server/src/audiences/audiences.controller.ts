import { Controller, Header, Req, Res } from '@nestjs/common';
import { MEMBER_FORMATS, type MemberFormat, type MembersAnswer, type Page, type Sent } from '@eager-sieve/contracts';
import { type Request, type Response } from 'express';
import { stringify } from 'csv-stringify';
import { vCard } from '../contacts/vcard';
import { Handles, SentHere } from '../http/route';
import { AuditService } from '../ledger/audit.service';
import { CallerIs, callerCause, callerRef, may, ownOf, type Caller } from '../settings/access';
import { AudiencesService } from './audiences.service';
import { ConditionsService } from './conditions.service';
import { writePeople } from './people-file';
import { PinsService } from './pins.service';
import { ValuesService } from './values.service';

const FORMATS = Object.keys(MEMBER_FORMATS) as MemberFormat[];
const WORDS: Readonly<Record<MemberFormat, string>> = { csv: 'CSV', ndjson: 'NDJSON', vcard: 'vCard' };
const ENDINGS: Readonly<Record<MemberFormat, string>> = { csv: 'csv', ndjson: 'ndjson', vcard: 'vcf' };

@Controller()
export class AudiencesController {
  constructor(
    private readonly audiences: AudiencesService,
    private readonly conditions: ConditionsService,
    private readonly pins: PinsService,
    private readonly known: ValuesService,
    private readonly audit: AuditService,
  ) {}

  @Handles('count')
  count(@SentHere() { body }: Sent<'count'>, @CallerIs() caller: Caller, @Res({ passthrough: true }) response: Response) {
    const waited = new AbortController();
    response.once('close', () => waited.abort());
    return this.conditions.count({ ...body, own: ownOf(caller) }, waited.signal);
  }

  @Handles('people')
  people(@SentHere() { body }: Sent<'people'>, @CallerIs() caller: Caller) {
    return this.conditions.people({ ...body, own: ownOf(caller) });
  }

  @Handles('columnSummary')
  columnSummary(@SentHere() { body }: Sent<'columnSummary'>, @CallerIs() caller: Caller) {
    return this.conditions.summary({ ...body, own: ownOf(caller) });
  }

  @Handles('peopleFile')
  async peopleFile(
    @SentHere() { query: { table, format } }: Sent<'peopleFile'>,
    @CallerIs() caller: Caller,
    @Res() response: Response,
  ): Promise<void> {
    const read = (after?: string) => this.conditions.people({ ...table, limit: 500, after });
    // What is wrong with it is said before anything is written.
    const first = await read();
    await this.audit.record(
      table.of === 'company' ? 'companies exported' : 'people exported',
      { format: WORDS[format] },
      callerRef(caller),
    );
    response.type(`${MEMBER_FORMATS[format]}; charset=utf-8`);
    response.setHeader(
      'Content-Disposition',
      `attachment; filename="${table.of === 'company' ? 'companies' : 'people'}.${ENDINGS[format]}"`,
    );
    await writePeople(response, {
      format,
      of: table.of,
      columns: table.columns ?? [],
      catalogue: (await this.conditions.compiled()).catalogue,
      first,
      read,
    });
  }

  @Handles('explain')
  explain(@SentHere() { body }: Sent<'explain'>, @CallerIs() caller: Caller) {
    return this.conditions.explain({ ...body, own: ownOf(caller) });
  }

  @Handles('values')
  values() {
    return this.known.view();
  }

  @Handles('audiences')
  async list(@CallerIs() caller: Caller) {
    return { audiences: await this.audiences.list(ownOf(caller)) };
  }

  @Handles('audience')
  view(@SentHere() { params }: Sent<'audience'>, @CallerIs() caller: Caller) {
    return this.audiences.view(params.key, ownOf(caller));
  }

  @Handles('members')
  @Header('Vary', 'Accept')
  async members(
    @SentHere() { params, query }: Sent<'members'>,
    @CallerIs() caller: Caller,
    @Req() request: Request,
    @Res() response: Response,
  ): Promise<void> {
    const { format, ...page } = query;
    const accepted = request.accepts(['application/json', ...FORMATS.map((each) => MEMBER_FORMATS[each])]);
    const wanted = format ?? FORMATS.find((each) => MEMBER_FORMATS[each] === accepted);
    const read = async (asked: Page): Promise<MembersAnswer> => {
      const members = await this.audiences.members(params.key, asked, ownOf(caller));
      return may(caller, 'contacts:read') ? members : namesOf(members);
    };
    if (wanted) {
      const { name } = await this.audiences.view(params.key, ownOf(caller));
      await this.audit.record('members exported', { name, format: WORDS[wanted] }, callerRef(caller));
      return this.#export(params.key, read, wanted, format !== undefined, response);
    }
    response.json(await read(page));
  }

  /** Every member, page by page, as it is read. @param asFile to be kept as a file, and not shown */
  async #export(
    key: string,
    read: (page: Page) => Promise<MembersAnswer>,
    format: MemberFormat,
    asFile: boolean,
    response: Response,
  ): Promise<void> {
    let page = await read({ limit: 500 });
    response.type(`${MEMBER_FORMATS[format]}; charset=utf-8`);
    if (asFile) response.setHeader('Content-Disposition', `attachment; filename="${key}.${ENDINGS[format]}"`);
    const ofCompanies = page.companies !== undefined;
    const columns = ofCompanies ? ['outsideId', 'name', 'contacts', 'since'] : ['email', 'name', 'tags', 'since'];
    const csv = format === 'csv' ? stringify({ header: true, columns, escape_formulas: true }) : undefined;
    csv?.pipe(response);
    for (;;) {
      for (const member of page.contacts) {
        if (csv) csv.write({ email: member.email, name: member.name, tags: member.tags?.join(';'), since: member.since });
        else if (format === 'vcard')
          response.write(
            vCard({ kind: 'individual', uid: member.id, name: member.name, email: member.email, categories: member.tags ?? [] }),
          );
        else response.write(`${JSON.stringify(member)}\n`);
      }
      for (const company of page.companies ?? []) {
        const { outsideId, name, contacts } = company;
        if (csv) csv.write({ outsideId, name, contacts, since: company.since });
        else if (format === 'vcard') response.write(vCard({ kind: 'org', uid: company.id, name }));
        else response.write(`${JSON.stringify(company)}\n`);
      }
      if (!page.after) break;
      page = await read({ limit: 500, after: page.after });
    }
    if (csv) csv.end();
    else response.end();
  }

  @Handles('movements')
  movements(@SentHere() { params, query }: Sent<'movements'>, @CallerIs() caller: Caller) {
    return this.audiences.movements(params.key, query, ownOf(caller));
  }

  @Handles('pins')
  listPins(@SentHere() { params }: Sent<'pins'>) {
    return this.pins.list(params.key);
  }

  @Handles('putPin')
  putPin(@SentHere() { params, body }: Sent<'putPin'>, @CallerIs() caller: Caller) {
    return this.pins.put(params.key, body, callerCause(caller));
  }

  @Handles('clearPin')
  clearPin(@SentHere() { params }: Sent<'clearPin'>, @CallerIs() caller: Caller) {
    return this.pins.clear(params.key, params.subject, callerCause(caller));
  }
}

/** Who they are, without what is known of them. */
const namesOf = ({ contacts, companies, ...rest }: MembersAnswer): MembersAnswer => ({
  ...rest,
  contacts: contacts.map(({ tags: _tags, scores: _scores, lastFromThem: _last, ...who }) => who),
  ...(companies ? { companies: companies.map(({ fields: _fields, scores: _scores, ...who }) => who) } : {}),
});
