import { catalogue } from '../testing/catalogue';
import { datesIn, encodingOf, guess, preview, readingOf, targets } from './import-columns';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
const file = (name: string): File => new File([], name);

describe('how a file is read', () => {
  it('is guessed from its first bytes', () => {
    expect(encodingOf(bytes('Östra'))).toBe('utf-8');
    // Cut in the middle of a character it is still UTF-8.
    expect(encodingOf(bytes('Ö').slice(0, 1))).toBe('utf-8');
    expect(encodingOf(Uint8Array.from([0x6d, 0xd6, 0x73]))).toBe('windows-1252');
    expect(encodingOf(Uint8Array.from([0xff, 0xfe, 0x6d, 0]))).toBe('utf-16le');
    expect(readingOf('a.csv', bytes('mail;town\na;b\n'))).toEqual({ encoding: 'utf-8', format: 'csv', separator: ';' });
    expect(readingOf('a.tsv', bytes('mail\ttown\na\tb\n'))).toMatchObject({ separator: '\t' });
    expect(readingOf('a.txt', bytes('{"mail":"a"}\n'))).toMatchObject({ format: 'ndjson' });
    expect(readingOf('a.ndjson', bytes('\n'))).toMatchObject({ format: 'ndjson' });
  });

  it('shows what stands in its first rows', () => {
    const reading = { encoding: 'windows-1252', format: 'csv', separator: ';' } as const;
    const latin = Uint8Array.from(Array.from('town;x\nÖ;1\n', (sign) => sign.charCodeAt(0)));
    expect(preview(file('a.csv'), latin, reading)).toMatchObject({ columns: ['town', 'x'], rows: [{ town: 'Ö', x: '1' }] });
    const lines = bytes('{"a":1,"b":["x","y"]}\nno object\n[1]\n{"c":null}\n{"cut');
    expect(preview(file('a'), lines, { ...reading, encoding: 'utf-8', format: 'ndjson' })).toMatchObject({
      columns: ['a', 'b', 'c'],
      rows: [{ a: '1', b: 'x;y' }, { c: '' }],
    });
  });

  it('takes cards for cards, and shows what they have', () => {
    const cards = bytes('BEGIN:VCARD\nVERSION:4.0\nFN:Åsa\nEMAIL:a@b.example\nEND:VCARD\nBEGIN:VCARD\nVERSION:4.0\nFN:Bo\nTEL:1\nEND:VC');
    const reading = readingOf('people', cards);
    expect(reading.format).toBe('vcard');
    expect(preview(file('people'), cards, reading)).toMatchObject({
      columns: ['name', 'email'],
      rows: [{ name: 'Åsa', email: 'a@b.example' }],
    });
  });

  it('guesses where the columns of orders go', () => {
    const rows = { of: 'signal', signalType: 'order.placed' } as const;
    expect(guess(['Email', 'Order date', 'Order number', 'SKU', 'Quantity', 'Total', 'Note'], catalogue, rows)).toEqual({
      Email: 'email',
      'Order date': 'time',
      'Order number': 'detail:order',
      SKU: 'detail:items.product',
      Quantity: 'detail:items.quantity',
      Total: 'detail:amount',
    });
    expect(targets(catalogue, rows)).toContainEqual(['detail:items.product', 'product of an item']);
  });

  it.each([
    [['1990-12-24'], 'year first'],
    [['24.12.1990'], 'day first'],
    [['3/4/1990'], 'day first'],
    [['3/4/1990', '12/24/1990'], 'month first'],
    [['seven'], 'year first'],
  ])('takes the days %j to be written %s', (cells, expected) => {
    expect(datesIn(cells.map((cell) => ({ born: cell })))).toBe(expected);
  });
});
