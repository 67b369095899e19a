import { countryOfZone } from '../index.ts';

describe('the country of a time zone', () => {
  it.each([
    ['Europe/Stockholm', 'Sweden'],
    ['Europe/Oslo', 'Norway'],
    ['Europe/Berlin', 'Germany'],
    ['Europe/London', 'United Kingdom'],
    ['Asia/Kolkata', 'India'],
    ['Asia/Calcutta', 'India'],
    ['America/New_York', 'United States'],
  ])('%s lies in %s', (zone, country) => expect(countryOfZone(zone)).toBe(country));

  it.each(['UTC', 'Etc/GMT+5', 'Mars/Olympus', '', 'europe'])('nobody can tell of %s', (zone) =>
    expect(countryOfZone(zone)).toBeUndefined(),
  );

  it('is known of nearly every zone in which people live', () => {
    const zones = Intl.supportedValuesOf('timeZone').filter((zone) => !/^(Etc|UTC|GMT|EST|CET|MET|WET|EET|MST|HST|PST|CST)/.test(zone));
    const unknown = zones.filter((zone) => countryOfZone(zone) === undefined);
    expect(unknown.length / zones.length).toBeLessThan(0.05);
  });
});
