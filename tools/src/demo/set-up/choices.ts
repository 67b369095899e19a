/** `key:name`, or one word that is both. */
export const options = (...pairs: readonly string[]): { key: string; name: string }[] =>
  pairs.map((pair) => ({ key: pair.split(':')[0] as string, name: pair.split(':')[1] ?? (pair.split(':')[0] as string) }));

export const REGIONS = options(
  'harbour-side:Harbour side',
  'upper-fern:Upper Fern',
  'mill-end:Mill End',
  'far-fields:Far Fields',
  'abroad:Abroad',
);
export const WAYS = options('throwing', 'hand-building', 'slip-casting', 'sculpting');
export const CAME_BY = options(
  'fair:spring fair',
  'friend:a friend',
  'search:search',
  'window:window poster',
  'gift:class gift',
  'trade:trade desk',
);
export const COUNTRIES = options('se:Sweden', 'no:Norway', 'dk:Denmark', 'fi:Finland', 'de:Germany', 'jp:Japan');
export const LANGUAGES = options('sv:Swedish', 'no:Norwegian', 'da:Danish', 'fi:Finnish', 'de:German', 'ja:Japanese', 'en:English');
export const FIRES = options('own:in my own kiln', 'shared:in a shared one', 'never:not yet');
export const SNAGS = options(
  'price:the price',
  'time:finding the time',
  'room:no room for a wheel',
  'firing:nowhere to fire',
  'nerves:I have never done it',
);
