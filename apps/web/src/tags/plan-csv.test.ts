import { Catalogue, definitionKinds, type AnyDefinition } from '@eager-sieve/core';
import { catalogue, definition } from '../testing/catalogue';
import { planFromCsv, planToCsv } from './plan-csv';

describe('the tag plan as a spreadsheet', () => {
  it('comes back as it went: nothing is new', () => {
    expect(planFromCsv(planToCsv(catalogue, undefined), catalogue)).toEqual({
      document: {},
      newFamilies: 0,
      newTags: 0,
      changed: 0,
      wrong: [],
    });
  });

  it('makes families and tags of a plan that was kept elsewhere, and changes what is said otherwise', () => {
    const csv = [
      'Family,Name,For,Carries,Notes',
      'Glaze,ash,who likes ash glazes,,old',
      'Glaze,shino,,,',
      'Way of working,throws,on the wheel,,',
      'Way of working,since,,date,',
    ].join('\n');
    const read = planFromCsv(csv, catalogue);
    expect(read).toMatchObject({ newFamilies: 1, newTags: 3, changed: 1, wrong: [] });
    expect(read.document.families).toEqual([
      { key: 'way-of-working', name: 'Way of working', prefix: 'way-of-working', purpose: '', many: true },
    ]);
    expect(read.document.tags).toEqual([
      expect.objectContaining({ key: 'glaze.ash', name: 'ash', family: 'glaze', purpose: 'who likes ash glazes' }),
      { key: 'glaze.shino', name: 'shino', family: 'glaze' },
      { key: 'way-of-working.throws', name: 'throws', family: 'way-of-working', purpose: 'on the wheel' },
      { key: 'way-of-working.since', name: 'since', family: 'way-of-working', value: 'date' },
    ]);
  });

  it('says of tags when they go by themselves, both ways', () => {
    const csv =
      'family,name,carries,goes after\nGlaze,ash,,14 days\nGlaze,due,date,on its date\nGlaze,shino,,on its date\nGlaze,wild,,soon\n';
    const read = planFromCsv(csv, catalogue);
    expect(read.document.tags).toEqual([
      expect.objectContaining({ key: 'glaze.ash', expires: { afterDays: 14 } }),
      expect.objectContaining({ key: 'glaze.due', value: 'date', expires: 'on its date' }),
    ]);
    expect(read.wrong).toHaveLength(2);
    const kept = new Catalogue(catalogue.workspace, [
      ...definitionKinds.flatMap((kind) => catalogue.every(kind) as readonly AnyDefinition[]).filter(({ key }) => key !== 'glaze.ash'),
      definition(catalogue.find('tag', 'glaze.ash')?.id ?? 0, 'tag', 'glaze.ash', 'ash', {
        ...catalogue.find('tag', 'glaze.ash')?.body,
        expires: { afterDays: 14 },
      }),
    ]);
    expect(planToCsv(kept, undefined)).toContain(',14 days,');
    expect(planFromCsv(planToCsv(kept, undefined), kept)).toMatchObject({ changed: 0, newTags: 0, wrong: [] });
  });

  it('keeps what tags are called in other languages, a column for each, and adds to it', () => {
    const ash = catalogue.find('tag', 'glaze.ash');
    const labelled = catalogue.withAlso(
      definition(171, 'tag', 'glaze.salt', 'salt', { family: ash?.body.family, labels: { sv: 'saltglasyr', de: 'Salzglasur' } }),
    );
    const csv = planToCsv(labelled, undefined);
    expect(csv).toContain(',in Swedish,in German');
    expect(planFromCsv(csv, labelled)).toMatchObject({ changed: 0, newTags: 0, wrong: [] });
    const read = planFromCsv('family,tag,In Finnish,in Swedish,in Klingon\nGlaze,glaze.salt,suolalasite,,x\n', labelled);
    expect(read.document.tags).toEqual([
      expect.objectContaining({ key: 'glaze.salt', labels: { sv: 'saltglasyr', de: 'Salzglasur', fi: 'suolalasite' } }),
    ]);
  });

  it('says which rows cannot be read', () => {
    expect(planFromCsv('tag,name\nglaze.x,x\n', catalogue).wrong).toEqual(['It has no column named “family”.']);
    const csv = 'family,name,carries\n,x,\nGlaze,y,colour\nGlaze,z,\nGlaze,z,\nGlaze,,\n';
    expect(planFromCsv(csv, catalogue).wrong).toEqual([
      'Row 2: it says no family.',
      'Row 3: “carries” is number, date, active or nothing, not “colour”.',
      'Row 5: glaze.z stands in it twice.',
      'Row 6: it says neither a tag nor a name.',
    ]);
  });
});
