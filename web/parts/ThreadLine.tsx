import { useId, type CSSProperties } from 'react';
import { toDay } from '../../core/dates/day.ts';
import type { Thread, ThreadMark } from '../../core/thread/thread.ts';
import { sayDate } from '../../core/words/date.ts';
import { placedMarks } from './threadMarks.ts';

interface Props {
  readonly thread: Thread;
  /** The stretch of time that is drawn, `YYYY-MM-DD`, so that threads under one another line up. */
  readonly from: string;
  readonly to: string;
  readonly today: string;
  readonly label: string;
  readonly tall?: boolean;
}

/** Read out, and not seen. */
const HIDDEN: CSSProperties = {
  ...{ position: 'absolute', width: 1, height: 1, margin: -1, padding: 0, border: 0, overflow: 'hidden' },
  ...{ clipPath: 'inset(50%)', whiteSpace: 'nowrap' },
};

const colour = (name: string) => `var(--chakra-colors-${name})`;

/**
 * One subscription's life as a line along time. Shape carries the meaning: hatched for a trial, a gap for a
 * pause, solid, open and broken squares for collected, planned and declined, a tick for a retry, a flag for a
 * letter, a bar for the end. A screen reader gets the same as a list.
 */
export function ThreadLine({ thread, from, to, today, label, tall = false }: Props) {
  const hatch = useId();
  const first = toDay(from);
  const span = Math.max(1, toDay(to) - first);
  const at = (date: string) => `${Math.min(100, Math.max(0, ((toDay(date) - first) / span) * 100))}%`;
  const inside = (date: string) => date >= from && date <= to;
  const height = tall ? 44 : 22;
  const middle = height / 2;
  const starts = thread.starts < from ? from : thread.starts;
  const ends = thread.ends !== null && thread.ends < to ? thread.ends : to;
  const marks = thread.marks.filter(({ date }) => inside(date));
  return (
    <div style={{ minWidth: 0 }}>
      <svg
        width="100%"
        height={height}
        role="img"
        aria-label={label}
        style={{ display: 'block', overflow: 'visible' }}
      >
        <defs>
          <pattern
            id={hatch}
            width="5"
            height="5"
            patternUnits="userSpaceOnUse"
            patternTransform="rotate(45)"
          >
            <line x1="0" y1="0" x2="0" y2="5" stroke={colour('trial')} strokeWidth="2" />
          </pattern>
        </defs>
        {inside(today) && (
          <line
            x1={at(today)}
            x2={at(today)}
            y1="0"
            y2={height}
            stroke={colour('kelp-fg')}
            strokeDasharray="2 2"
          />
        )}
        {servedParts(thread, starts, ends).map((part) => (
          <line
            key={part.from}
            x1={at(part.from)}
            x2={at(part.to)}
            y1={middle}
            y2={middle}
            stroke={colour('muted')}
            strokeWidth="1.5"
          />
        ))}
        {thread.stretches
          .filter((stretch) => stretch.to > from && stretch.from < to)
          .map((stretch) => (
            <svg key={`${stretch.kind}${stretch.from}`} x={at(stretch.from)} overflow="visible">
              <title>{`${stretch.kind} from ${sayDate(stretch.from)} to ${sayDate(stretch.to)}`}</title>
              <rect
                y={middle - 4}
                height={8}
                width={widthOf(at(stretch.from), at(stretch.to))}
                fill={stretch.kind === 'trial' ? `url(#${hatch})` : 'transparent'}
              />
            </svg>
          ))}
        {placedMarks(marks, (tall ? 640 : 260) / span).map(({ mark, aside, count, says }, i) => (
          <svg key={`${mark.date}${mark.kind}${i}`} x={at(mark.date)} y={middle} overflow="visible">
            <title>{says}</title>
            <g transform={`translate(${aside} 0)`}>
              <Mark kind={mark.kind} />
              {count > 1 && (
                <text y={-7} textAnchor="middle" fontSize="10" fill={colour('ink')}>
                  {count}
                </text>
              )}
            </g>
          </svg>
        ))}
      </svg>
      <ul style={HIDDEN}>
        {marks.map((mark, i) => (
          <li key={`${mark.date}${i}`}>{mark.says}</li>
        ))}
      </ul>
    </div>
  );
}

/** The parts of the line that are drawn: all but the pauses, which are gaps. */
function servedParts(thread: Thread, starts: string, ends: string): { from: string; to: string }[] {
  const parts: { from: string; to: string }[] = [];
  let from = starts;
  for (const pause of thread.stretches.filter(({ kind }) => kind === 'paused')) {
    if (pause.to <= from || pause.from >= ends) continue;
    if (pause.from > from) parts.push({ from, to: pause.from });
    from = pause.to;
  }
  return from < ends ? [...parts, { from, to: ends }] : parts;
}

function widthOf(from: string, to: string): string {
  return `${Math.max(0, parseFloat(to) - parseFloat(from))}%`;
}

/** The shape of a mark, around the point where it stands. */
export function Mark({ kind }: { readonly kind: ThreadMark['kind'] }) {
  switch (kind) {
    case 'collected':
      return <rect x="-4" y="-4" width="8" height="8" fill={colour('collected')} />;
    case 'planned':
      return (
        <rect
          x="-3.5"
          y="-3.5"
          width="7"
          height="7"
          fill={colour('page')}
          stroke={colour('planned')}
          strokeWidth="1.5"
        />
      );
    case 'declined':
      return (
        <path
          d="M-4-4h3.5l-1 2.7 1.6 1.6-1.6 1.6.9 2.1H-4ZM1.8-4H4V4H1l-.7-2 1.7-1.7L.4-1.3Z"
          fill={colour('declined')}
        />
      );
    case 'retry':
      return <line x1="0" x2="0" y1="-7" y2="7" stroke={colour('declined')} strokeWidth="1.5" />;
    case 'notice':
      return <path d="M0 4V-9h6l-2 2 2 2H0" fill="none" stroke={colour('trial')} strokeWidth="1.3" />;
    case 'end':
      return <rect x="-1.5" y="-8" width="3" height="16" fill={colour('ink')} />;
  }
}
