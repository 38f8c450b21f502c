import { Box, chakra, Flex, Text } from '@chakra-ui/react';
import {
  DndContext,
  PointerSensor,
  useDraggable,
  useSensor,
  useSensors,
  type DragEndEvent,
  type DragMoveEvent,
} from '@dnd-kit/core';
import { restrictToHorizontalAxis } from '@dnd-kit/modifiers';
import { useEffect, useRef, useState, type KeyboardEvent } from 'react';
import { DECLINE_CLASSES, type DeclineClass } from '../../../../core/recovery/declineCodes.ts';
import { mayRetry, MOST_DAYS, serves } from '../../../../core/recovery/ladder.ts';
import { sayRungShort } from '../../../parts/sayRung.ts';
import { Mark } from '../../../parts/ThreadLine.tsx';
import type { KeyedRung, TypedLadder } from './ladderDraft.ts';

/** What the lanes are called: a decline of each class. */
export const LANES: Readonly<Record<DeclineClass, string>> = {
  wait: 'No money',
  soon: 'Bank away',
  ask: 'To be mended',
  never: 'Lost, withdrawn',
};

const LANE = 30;
const LABELS = 118;
const END = 'end';

interface Props {
  readonly typed: TypedLadder;
  readonly chosen: string | null;
  readonly onChoose: (key: string) => void;
  readonly onMove: (key: string, afterDays: number) => void;
  readonly onEnd: (afterDays: number) => void;
}

/**
 * A ladder as a line of days: its rungs stand on it, one lane for each class of decline. A rung is dragged to another day, or
 * moved by the arrow keys, a week at a time with Shift; so is the end.
 */
export function LadderLine({ typed, chosen, onChoose, onMove, onEnd }: Props) {
  const { rungs, finalAfterDays } = typed.policy;
  const track = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(600);
  const [dragged, setDragged] = useState<{ key: string; days: number } | null>(null);
  useEffect(() => {
    const box = track.current;
    if (!box) return;
    const seen = new ResizeObserver(() => setWidth(box.clientWidth));
    seen.observe(box);
    return () => seen.disconnect();
  }, []);
  const span = Math.max(finalAfterDays, rungs.at(-1)?.afterDays ?? 0, 12) + 2;
  const aDay = width / span;
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 4 } }));
  const bounded = (day: number, most: number) => Math.min(most, Math.max(0, day));
  const move = (key: string, by: number) => {
    if (by === 0) return;
    if (key === END) return onEnd(bounded(finalAfterDays + by, MOST_DAYS + 30));
    const rung = rungs.find((one) => one.key === key);
    if (rung) onMove(key, bounded(rung.afterDays + by, MOST_DAYS));
  };
  const daysOf = ({ delta }: DragMoveEvent | DragEndEvent) => Math.round(delta.x / aDay);
  const step = span > 60 ? 14 : span > 21 ? 7 : span > 12 ? 2 : 1;
  const ticks = Array.from({ length: Math.floor(span / step) + 1 }, (_, i) => i * step);
  return (
    <Box role="group" aria-label="The line of days">
      <DndContext
        sensors={sensors}
        modifiers={[restrictToHorizontalAxis]}
        onDragMove={(event) => setDragged({ key: String(event.active.id), days: daysOf(event) })}
        onDragCancel={() => setDragged(null)}
        onDragEnd={(event) => {
          setDragged(null);
          move(String(event.active.id), daysOf(event));
        }}
      >
        <Box position="relative" ml={`${LABELS}px`} h="38px" ref={track}>
          {rungs.map((rung) => (
            <Handle
              key={rung.key}
              id={rung.key}
              day={rung.afterDays + (dragged?.key === rung.key ? dragged.days : 0)}
              x={rung.afterDays * aDay}
              says={`Rung on day ${rung.afterDays}: ${sayRungShort(rung)}`}
              isChosen={chosen === rung.key}
              onChoose={() => onChoose(rung.key)}
              onBy={(by) => move(rung.key, by)}
            />
          ))}
          <Handle
            id={END}
            day={finalAfterDays + (dragged?.key === END ? dragged.days : 0)}
            x={finalAfterDays * aDay}
            says={`The end, on day ${finalAfterDays}`}
            isEnd
            isChosen={chosen === END}
            onChoose={() => onChoose(END)}
            onBy={(by) => move(END, by)}
          />
        </Box>
      </DndContext>
      <Box aria-hidden>
        {DECLINE_CLASSES.map((one) => (
          <Lane key={one} of={one} {...{ rungs, finalAfterDays, aDay, width, chosen, onChoose }} />
        ))}
        <Box position="relative" ml={`${LABELS}px`} h="20px">
          {ticks.map((day) => (
            <Text
              key={day}
              as="span"
              position="absolute"
              left={`${day * aDay}px`}
              transform="translateX(-50%)"
              fontSize="11.5px"
              color="muted"
              whiteSpace="nowrap"
            >
              {day === 0 ? 'day 0' : day}
            </Text>
          ))}
        </Box>
      </Box>
    </Box>
  );
}

interface HandleProps {
  readonly id: string;
  readonly day: number;
  readonly x: number;
  readonly says: string;
  readonly isChosen: boolean;
  readonly isEnd?: boolean;
  readonly onChoose: () => void;
  readonly onBy: (days: number) => void;
}

/** What a rung, or the end, is taken hold of by. */
function Handle({ id, day, x, says, isChosen, isEnd = false, onChoose, onBy }: HandleProps) {
  const { setNodeRef, listeners, transform, isDragging } = useDraggable({ id });
  const onKeyDown = (event: KeyboardEvent) => {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (by === undefined) return;
    event.preventDefault();
    onBy(by * (event.shiftKey ? 7 : 1));
  };
  return (
    <chakra.button
      type="button"
      ref={setNodeRef}
      {...listeners}
      aria-label={`${says}. Move it by the arrow keys.`}
      aria-pressed={isChosen}
      onClick={onChoose}
      onKeyDown={onKeyDown}
      position="absolute"
      top="4px"
      left={`${x}px`}
      style={{ transform: `translateX(calc(-50% + ${transform?.x ?? 0}px))` }}
      minW="30px"
      h="26px"
      px="1.5"
      borderRadius="4px"
      borderWidth="1px"
      borderColor={isChosen ? 'kelp.solid' : isEnd ? 'ink' : 'planned'}
      bg={isChosen ? 'kelp.solid' : 'page'}
      color={isChosen ? 'kelp.contrast' : 'ink'}
      fontVariantNumeric="tabular-nums"
      fontWeight={isEnd ? '600' : '500'}
      fontSize="13px"
      cursor={isDragging ? 'grabbing' : 'grab'}
      zIndex={isDragging ? 2 : isChosen ? 1 : 0}
      touchAction="none"
      whiteSpace="nowrap"
    >
      {isEnd ? `end ${day}` : day}
    </chakra.button>
  );
}

interface LaneProps {
  readonly of: DeclineClass;
  readonly rungs: readonly KeyedRung[];
  readonly finalAfterDays: number;
  readonly aDay: number;
  readonly width: number;
  readonly chosen: string | null;
  readonly onChoose: (key: string) => void;
}

/** What a decline of one class comes to, along the days. */
function Lane({ of, rungs, finalAfterDays, aDay, width, chosen, onChoose }: LaneProps) {
  const served = rungs.filter((rung) => serves(rung, of));
  const paused = served.find(({ acts }) => acts?.kind === 'pause');
  const end = finalAfterDays * aDay;
  const stops = paused === undefined ? end : paused.afterDays * aDay;
  return (
    <Flex align="center">
      <Text w={`${LABELS}px`} flexShrink="0" fontSize="13px" color="muted">
        {LANES[of]}
      </Text>
      <svg width={width} height={LANE} style={{ display: 'block', overflow: 'visible' }}>
        <line
          x1="0"
          x2={stops}
          y1={LANE / 2}
          y2={LANE / 2}
          stroke="var(--chakra-colors-muted)"
          strokeWidth="1.5"
        />
        {stops < end && (
          <line
            x1={stops}
            x2={end}
            y1={LANE / 2}
            y2={LANE / 2}
            stroke="var(--chakra-colors-paused)"
            strokeWidth="1.5"
            strokeDasharray="2 4"
          />
        )}
        {served.map((rung) => {
          const tries = mayRetry(rung, of);
          const asksStaff = rung.tellsStaff === true || rung.acts?.kind === 'task';
          return (
            <g
              key={rung.key}
              transform={`translate(${rung.afterDays * aDay},${LANE / 2})`}
              onClick={() => onChoose(rung.key)}
              style={{ cursor: 'pointer' }}
            >
              <rect
                x="-11"
                y={-LANE / 2}
                width="22"
                height={LANE}
                fill={chosen === rung.key ? 'var(--chakra-colors-ground)' : 'transparent'}
              />
              {tries && <Mark kind="retry" />}
              {rung.letter && (
                <g transform={tries ? 'translate(1,0)' : undefined}>
                  <Mark kind="notice" />
                </g>
              )}
              {asksStaff && (
                <circle
                  cx="-5"
                  cy="6"
                  r="2.6"
                  fill="none"
                  stroke="var(--chakra-colors-ink)"
                  strokeWidth="1.2"
                />
              )}
            </g>
          );
        })}
        <g transform={`translate(${end},${LANE / 2})`}>
          <Mark kind="end" />
        </g>
      </svg>
    </Flex>
  );
}
