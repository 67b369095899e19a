import { TestServer } from './harness';
import { vCard } from '../src/contacts/vcard';

describe('members of an audience, taken along', () => {
  let server: TestServer;
  const get = async (key: string, how: { accept?: string; format?: string }) => {
    const call = server
      .call('get', `/api/v1/audiences/${key}/members`)
      .buffer(true)
      .parse((response, done) => {
        let text = '';
        response.on('data', (chunk: Buffer) => (text += chunk.toString()));
        response.on('end', () => done(null, text));
      });
    const answer = await (how.accept ? call.set('accept', how.accept) : call.query({ format: how.format }));
    return {
      status: answer.status,
      type: String(answer.headers['content-type']),
      file: answer.headers['content-disposition'],
      text: answer.body as string,
    };
  };

  beforeAll(async () => {
    server = await TestServer.start();
    const everyone = { match: 'all', of: [] };
    await server.define({
      families: [{ key: 't', name: 'T', prefix: 't', purpose: '', many: true }],
      tags: [{ key: 't.one', name: 'one', family: 't' }],
      audiences: [
        { key: 'people', name: 'People', kind: 'live', condition: everyone },
        { key: 'firms', name: 'Firms', kind: 'live', of: 'company', condition: everyone },
      ],
    });
    await server
      .call('put', '/api/v1/companies')
      .send({ companies: [1, 2].map((n) => ({ outsideId: `firm-${n}`, name: `Firm, the ${n}` })) })
      .expect(200);
    await server
      .call('put', '/api/v1/contacts')
      .send({
        contacts: [
          {
            email: 'ann@out.example',
            fields: { 'given-name': 'Ann; "the" first', 'family-name': 'Ågren' },
            tags: { 't.one': true },
            company: 'firm-1',
          },
          { email: 'bob@out.example' },
        ],
      })
      .expect(200);
    await server.idle();
  });
  afterAll(() => server.stop());

  it.each([['accept'], ['format']])('come as CSV, as NDJSON and as vCard, of contacts and of companies, asked by %s', async (by) => {
    const asked = (format: string, accept: string) => (by === 'accept' ? { accept } : { format });
    const csv = await get('people', asked('csv', 'text/csv'));
    expect(csv.type).toContain('text/csv');
    expect(csv.text.split('\n')[0]).toBe('email,name,tags,since');
    expect(csv.text).toContain('ann@out.example,"Ann; ""the"" first Ågren",t.one,');
    const firms = await get('firms', asked('csv', 'text/csv'));
    expect(firms.text.split('\n')[0]).toBe('outsideId,name,contacts,since');
    expect(firms.text).toMatch(/firm-1,"Firm, the 1",1,20/);
    const lines = (await get('firms', asked('ndjson', 'application/x-ndjson'))).text.trim().split('\n');
    expect(lines.map((line) => (JSON.parse(line) as { outsideId: string }).outsideId).sort()).toEqual(['firm-1', 'firm-2']);
    expect((await get('people', asked('ndjson', 'application/x-ndjson'))).text.trim().split('\n')).toHaveLength(2);
    const cards = await get('people', asked('vcard', 'text/vcard'));
    expect(cards.type).toContain('text/vcard');
    expect(cards.text.match(/BEGIN:VCARD\r\nVERSION:4\.0\r\n/g)).toHaveLength(2);
    expect(cards.text).toContain('FN:Ann\\; "the" first Ågren\r\nEMAIL:ann@out.example\r\nCATEGORIES:t.one\r\nEND:VCARD\r\n');
    expect((await get('firms', asked('vcard', 'text/vcard'))).text).toContain('KIND:org\r\n');
    if (by === 'format') expect(cards.file).toBe('attachment; filename="people.vcf"');
  });

  it('are refused in a format that there is none of', async () => {
    expect((await get('people', { format: 'paper' })).status).toBe(422);
  });
});

describe('a vCard', () => {
  it('folds what is long between characters, and escapes what means something', () => {
    const card = vCard({ kind: 'individual', uid: 'u', name: `${'å'.repeat(60)}, b\\c\nd`, categories: ['a,b', 'c'] });
    for (const line of card.split('\r\n')) expect(Buffer.byteLength(line)).toBeLessThanOrEqual(75);
    expect(card.replaceAll('\r\n ', '')).toContain(`FN:${'å'.repeat(60)}\\, b\\\\c\\nd\r\n`);
    expect(card).toContain('CATEGORIES:a\\,b,c\r\n');
  });
});
