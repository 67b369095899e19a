import { boundsAt, Moment, prepareWindow, saidParts, type Catalogue, type Leaf, type Part, type SubjectKind } from '@eager-sieve/core';
import { Fragment, useState } from 'react';
import { AudienceLink } from '../ui/audience-link';
import { Tag } from '../ui/tag';

interface LineWordsProps {
  readonly leaf: Leaf;
  readonly catalogue: Catalogue;
  /** whose line it is */
  readonly of?: SubjectKind;
  readonly onSlot?: (() => void) | undefined;
}

/** A line in words; what can be changed has a dotted underline, what leads elsewhere is a link. */
export function LineWords({ leaf, catalogue, of, onSlot }: LineWordsProps) {
  const parts = saidParts(leaf, catalogue, of);
  return (
    <span>
      {parts.map((part, index) => (
        <Fragment key={index}>
          {index > 0 && !part.text.startsWith(',') && ' '}
          <Words part={part} onSlot={onSlot} />
        </Fragment>
      ))}{' '}
      <Since leaf={leaf} catalogue={catalogue} />
    </span>
  );
}

function Words({ part, onSlot }: { part: Part; onSlot: LineWordsProps['onSlot'] }) {
  const shown = part.names?.kind === 'tag' ? <Tag name={part.text} /> : part.text;
  if (part.isSlot && onSlot)
    return (
      <button type="button" className="slot text-left" onClick={onSlot}>
        {shown}
      </button>
    );
  return part.names?.kind === 'audience' ? <AudienceLink audience={part.names.key}>{shown}</AudienceLink> : <span>{shown}</span>;
}

const since = (at: number, zone: string): string =>
  new Intl.DateTimeFormat('en-GB', {
    timeZone: zone,
    ...(Date.now() - at > YEAR_SHOWN_AFTER_MS ? { year: 'numeric' as const } : {}),
    weekday: 'short',
    day: 'numeric',
    month: 'short',
    hour: '2-digit',
    minute: '2-digit',
  }).format(at);

/** A date so long ago could be of either year. */
const YEAR_SHOWN_AFTER_MS = 180 * 86_400_000;

/** The instant at which a window that moves begins now, so that nobody has to count days. */
function Since({ leaf, catalogue }: { leaf: Leaf; catalogue: Catalogue }) {
  const [now] = useState(Date.now);
  if (leaf.kind !== 'signal' || leaf.within === undefined || leaf.within === 'ever' || !('last' in leaf.within)) return null;
  const window = prepareWindow(leaf.within, catalogue.zone, []);
  if (!window.ok) return null;
  return (
    <span className="quiet text-[12.5px]">since {since(boundsAt(window.value, new Moment(now, catalogue.zone)).from, catalogue.zone)}</span>
  );
}
