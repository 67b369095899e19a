const family = (prefix: string, name: string, purpose: string, many = true) => ({ key: prefix, prefix, name, purpose, many });
const tag = (key: string, name: string) => ({ key, family: key.split('.')[0] as string, name });

export const FAMILIES = [
  family('craft', 'Way of working', 'how they work the clay'),
  family('skill', 'Steps at the wheel', 'how far they have come', false),
  family('fire', 'Firing', 'how they fire'),
  family('clay', 'Clay', 'what they throw and buy'),
  family('glaze', 'Glaze', 'colours they care for'),
  family('bench', 'Bench', 'their membership'),
  family('class', 'Classes', 'taken, missed, wished for'),
  family('snag', 'Snags', 'what keeps them from starting'),
  family('wish', 'Wishes', 'what they told us by a click'),
  family('trade', 'Trade desk', 'cafés, inns and schools'),
  family('care', 'Handle with care', 'call first, complaint open'),
];

export const TAGS = [
  tag('craft.throwing', 'throws'),
  tag('craft.hand-building', 'builds by hand'),
  tag('skill.first-bowl', 'has thrown a first bowl'),
  tag('skill.centred', 'centres by themselves'),
  tag('fire.gas', 'fires with gas'),
  tag('clay.stoneware', 'buys stoneware'),
  tag('glaze.buyer', 'has bought glaze'),
  tag('glaze.celadon', 'cares for celadon'),
  tag('glaze.ash', 'cares for ash glazes'),
  tag('bench.member', 'has a membership'),
  tag('bench.own', 'has a bench of their own'),
  tag('bench.lapsed', 'had a bench'),
  { ...tag('bench.renews', 'renews on'), value: 'date' },
  { ...tag('bench.hours-left', 'hours left this month'), value: 'number' },
  tag('class.taken', 'has taken a class'),
  tag('class.wheel-buying', 'took the class on buying a wheel'),
  tag('snag.price', 'the price stops them'),
  tag('snag.room', 'has no room for a wheel'),
  tag('snag.nerves', 'has never done it'),
  tag('wish.glossy', 'chose glossy'),
  tag('wish.matt', 'chose matt'),
  tag('wish.wild', 'chose wild'),
  tag('trade.enquired', 'asked for tableware'),
  tag('care.call-first', 'call before writing'),
];
