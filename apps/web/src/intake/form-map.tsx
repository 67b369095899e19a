import { type FormBody, type Link, type Ways } from '@eager-sieve/core';
import { path, scalePoint } from 'd3';

const WIDTH = 250;
const ROW = 34;
const BOX = 150;

interface Stop {
  readonly id: string;
  readonly words: string;
  readonly isEnd: boolean;
}

/** The id of an end, beside the keys of questions. */
const endId = (end: string | true | undefined): string => `/${end === true || end === undefined ? '' : end}`;
const toOf = ({ to, end }: Link): string => to ?? endId(end);

/** The ways through a form: its questions from top to bottom, and an arc wherever the way passes over some. */
export function FormMap({ form, ways, taken }: { form: FormBody; ways: Ways; taken?: ReadonlyMap<string, number> }) {
  const stops = stopsOf(form, ways);
  const y = scalePoint(
    stops.map(({ id }) => id),
    [ROW / 2, stops.length * ROW - ROW / 2],
  );
  const place = (id: string): number => stops.findIndex((stop) => stop.id === id);
  const at = (id: string): number => y(id) ?? 0;
  return (
    <figure>
      <svg
        viewBox={`0 0 ${WIDTH} ${Math.max(1, stops.length) * ROW}`}
        className="w-full max-w-[330px]"
        role="img"
        aria-label="The ways through the form"
      >
        {ways.links.map((link) => {
          const [from, to] = [place(link.from), place(toOf(link))];
          const said = sentence(form, link, taken);
          return (
            <path
              key={`${link.from}>${toOf(link)}`}
              d={arc(at(link.from), at(toOf(link)), Math.abs(to - from))}
              className={`fill-none ${to === from + 1 ? 'stroke-base-content/40' : 'stroke-primary'}`}
              strokeWidth={1.5}
            >
              <title>{said}</title>
            </path>
          );
        })}
        {stops.map(({ id, words, isEnd }) => {
          const isLost = ways.unreached.includes(id);
          return (
            <g key={id}>
              <rect
                x={2}
                y={at(id) - 11}
                width={BOX}
                height={22}
                rx={isEnd ? 11 : 4}
                className={`fill-base-100 ${isLost ? 'stroke-error' : isEnd ? 'stroke-primary' : 'stroke-base-300'}`}
                strokeDasharray={isLost ? '4 3' : undefined}
              />
              <text x={10} y={at(id) + 4} fontSize={11.5} className={isLost ? 'fill-error' : 'fill-base-content'}>
                {short(words)}
                <title>{isLost ? `${words}: nobody comes here` : words}</title>
              </text>
            </g>
          );
        })}
      </svg>
      <ul className="sr-only">
        {ways.links.map((link) => (
          <li key={`${link.from}>${toOf(link)}`}>{sentence(form, link, taken)}</li>
        ))}
      </ul>
    </figure>
  );
}

function stopsOf(form: FormBody, ways: Ways): readonly Stop[] {
  const questions = form.questions
    .filter(({ type }) => type !== 'hidden')
    .map(({ key, label }): Stop => ({ id: key, words: label || 'no words yet', isEnd: false }));
  const ends = new Set(ways.links.filter(({ to }) => to === undefined).map((link) => endId(link.end)));
  const outcomes = (form.outcomes ?? []).map(({ key, name }): Stop => ({ id: endId(key), words: name, isEnd: true }));
  return [...questions, ...(ends.has('/') ? [{ id: '/', words: 'Thanks', isEnd: true }] : []), ...outcomes];
}

/** Straight down to the next row; otherwise out to the side, further the more it passes over. */
function arc(from: number, to: number, over: number): string {
  const line = path();
  if (over <= 1) {
    line.moveTo(20, from + (to > from ? 11 : -11));
    line.lineTo(20, to + (to > from ? -11 : 11));
    return line.toString();
  }
  const out = BOX + 14 + Math.min(80, over * 13);
  line.moveTo(BOX + 2, from);
  line.bezierCurveTo(out, from, out, to, BOX + 6, to);
  line.moveTo(BOX + 10, to - 4);
  line.lineTo(BOX + 4, to);
  line.lineTo(BOX + 10, to + 4);
  return line.toString();
}

const short = (words: string): string => (words.length > 24 ? `${words.slice(0, 23)}…` : words);

function sentence(form: FormBody, link: Link, taken: ReadonlyMap<string, number> | undefined): string {
  const label = (key: string): string => form.questions.find((each) => each.key === key)?.label || 'a question without words';
  const end = form.outcomes?.find(({ key }) => key === link.end)?.name;
  const to = link.to === undefined ? (end ? `the end “${end}”` : 'the end') : `“${label(link.to)}”`;
  const by = link.by.length > 0 ? `, answered ${link.by.map((name) => `“${name}”`).join(' or ')}` : '';
  const people = taken?.get(`${link.from}>${link.to ?? ''}`);
  return `From “${label(link.from)}”${by} to ${to}${people === undefined ? '' : `: ${people}`}`;
}
