import { Box, Text } from '@chakra-ui/react';
import { lazy, Suspense } from 'react';
import { formatDay } from '../../../../core/dates/day.ts';
import { sayDate } from '../../../../core/words/date.ts';
import type { Checked } from '../../../../core/whatIf/checkModel.ts';
import type { Odds } from '../../../../core/whatIf/logistic.ts';
import { ChartAndTable, type ChartTable } from '../../../parts/ChartAndTable.tsx';
import { Fold } from '../../../parts/Fold.tsx';
import type { Learned } from './useWhatIf.ts';

const Calibration = lazy(() => import('./WhatIfCharts.tsx').then((part) => ({ default: part.Calibration })));

/** How well the model foretells what it has not seen, and what it has learned. */
export function HowGood({ learned: { checked, odds } }: { readonly learned: Learned }) {
  return (
    <>
      <Text as="h2" fontFamily="heading" fontSize="16px" mb="1">
        How good is it?
      </Text>
      <Text color="muted" mb="3" maxW="760px">
        {checked && (checked.retries ?? checked.declines)
          ? `The model was fitted to what had happened before ${sayDate(formatDay(checked.from))} alone, and held against what happened since.`
          : 'Too little has happened since to hold the model against: thirty retries or declines are needed that it has not seen.'}
      </Text>
      <Suspense fallback={null}>
        {checked?.retries && <Held of="retries that were paid" name="retries" checked={checked.retries} />}
        {checked?.declines && (
          <Held of="declines that were recovered" name="declines" checked={checked.declines} />
        )}
      </Suspense>
      <Fold title="What it has learned" holds="how each thing changes the odds">
        <OddsTable title="That a retry is paid" odds={odds.retries} />
        <OddsTable title="That a customer mends it on a day" odds={odds.mends} />
      </Fold>
    </>
  );
}

function Held({
  of,
  name,
  checked,
}: {
  readonly of: string;
  readonly name: string;
  readonly checked: Checked;
}) {
  const percent = (share: number) => (100 * share).toFixed(1);
  const { brier, brierOfShare, count, bins } = checked;
  const table: ChartTable = {
    name: `calibration-${name}`,
    columns: ['Predicted, %', 'Came about, %', 'From, %', 'To, %', 'Of'],
    rows: bins.map((bin) => [
      ...[bin.predicted, bin.came, bin.low, bin.high].map(percent),
      String(bin.count),
    ]),
  };
  const better = 1 - brier / brierOfShare;
  return (
    <ChartAndTable
      title={`Predicted and actual share of ${of}`}
      says={`${count.toLocaleString('en')} of them. Brier score ${brier.toFixed(3)}; of one who says the share of the past each time, ${brierOfShare.toFixed(3)}: ${
        better > 0.005
          ? `${Math.round(100 * better)} % better`
          : better < -0.005
            ? `${Math.round(-100 * better)} % worse, so do not build on it`
            : 'no better'
      }.`}
      table={table}
    >
      <Calibration checked={checked} of={of} />
    </ChartAndTable>
  );
}

function OddsTable({ title, odds }: { readonly title: string; readonly odds: readonly Odds[] }) {
  return (
    <Box as="table" fontSize="13px" mb="5" minW="520px">
      <Box as="caption" textAlign="start" fontWeight="500" mb="1">
        {title}
      </Box>
      <thead>
        <tr>
          {['', 'Odds times', '90 % between', 'Met'].map((heading, i) => (
            <Box as="th" key={heading} fontWeight="500" pe="4" textAlign={i === 0 ? 'start' : 'end'}>
              {heading}
            </Box>
          ))}
        </tr>
      </thead>
      <tbody>
        {odds.map(({ of, value, factor, low, high, met }) => (
          <Box as="tr" key={`${of} ${value}`} borderTopWidth="1px" borderColor="lines">
            <Box as="th" {...{ scope: 'row' }} fontWeight="400" textAlign="start" pe="4" py="0.5">
              {of}: {value}
            </Box>
            {[factor.toFixed(2), `${low.toFixed(2)}–${high.toFixed(2)}`, met.toLocaleString('en')].map(
              (cell, i) => (
                <Box as="td" key={i} textAlign="end" pe="4" fontVariantNumeric="tabular-nums">
                  {cell}
                </Box>
              ),
            )}
          </Box>
        ))}
      </tbody>
    </Box>
  );
}
