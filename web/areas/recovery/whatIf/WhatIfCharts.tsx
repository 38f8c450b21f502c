import { Box } from '@chakra-ui/react';
import { Chart } from 'react-chartjs-2';
import type { Checked } from '../../../../core/whatIf/checkModel.ts';
import type { Replayed } from '../../../../core/whatIf/replay.ts';
import '../../../parts/chartParts.ts';
import { chartAxis, chartColour, lineOf } from '../../../parts/chartColours.ts';

interface Named {
  readonly name: string;
  readonly of: Replayed;
}

/** What each ladder would have recovered: a bar over nine draws of ten, and a mark in their middle. */
export function MoneyBars({
  ladders,
  unit,
  title,
}: {
  readonly ladders: readonly Named[];
  readonly unit: number;
  readonly title: string;
}) {
  return (
    <Box h={`${70 + ladders.length * 44}px`} maxW="820px">
      <Chart
        type="bar"
        role="img"
        aria-label="Recovered money of each ladder, with its interval"
        data={{
          labels: ladders.map(({ name }) => name),
          datasets: [
            {
              ...{ type: 'bar' as const, order: 1 },
              label: 'In nine of ten replays between',
              data: ladders.map(({ of }) => [of.money.low / unit, of.money.high / unit]),
              backgroundColor: chartColour('kelp-solid'),
              barThickness: 14,
              borderSkipped: false,
              borderRadius: 3,
            },
            {
              ...{ type: 'line' as const, order: 0 },
              label: 'The middle',
              data: ladders.map(({ of }) => of.money.middle / unit) as never,
              borderColor: chartColour('ink'),
              backgroundColor: chartColour('page'),
              pointRadius: 5,
              pointBorderWidth: 2,
              showLine: false,
            },
          ],
        }}
        options={{
          ...{ indexAxis: 'y', animation: false, maintainAspectRatio: false },
          scales: { x: chartAxis(title), y: { ...chartAxis(), ticks: { color: chartColour('ink') } } },
          plugins: { legend: { labels: { boxWidth: 14, color: chartColour('muted') } } },
        }}
      />
    </Box>
  );
}

/** Which share of the declines is paid so many days after the failure. */
export function PaidByDay({ ladders }: { readonly ladders: readonly Named[] }) {
  const longest = Math.max(...ladders.map(({ of }) => of.paidBy.length), 1);
  return (
    <Box h="240px" maxW="820px">
      <Chart
        type="line"
        role="img"
        aria-label="Share of the declines that is paid, by days after the failure"
        data={{
          datasets: ladders.map(({ name, of }, i) => {
            const { colour, dash } = lineOf(i);
            const last = of.paidBy.at(-1) ?? 0;
            return {
              label: name,
              // Where a ladder has ended, its share stays.
              data: Array.from({ length: longest }, (_, day) => ({
                x: day,
                y: 100 * (of.paidBy[day] ?? last),
              })),
              ...{ borderColor: chartColour(colour), borderDash: [...dash], borderWidth: 2, pointRadius: 0 },
              stepped: true as const,
            };
          }),
        }}
        options={{
          ...{ animation: false, maintainAspectRatio: false, parsing: false },
          scales: {
            x: { type: 'linear', min: 0, ...chartAxis('Days after the failure') },
            y: { min: 0, max: 100, ...chartAxis('Paid, %') },
          },
          plugins: { legend: { labels: { boxWidth: 30, color: chartColour('muted') } } },
        }}
      />
    </Box>
  );
}

/** What was predicted beside what came about: a good model keeps to the line. */
export function Calibration({ checked, of }: { readonly checked: Checked; readonly of: string }) {
  const percent = (x: number, y: number) => ({ x: 100 * x, y: 100 * y });
  return (
    <Box h="260px" w="380px">
      <Chart
        type="scatter"
        role="img"
        aria-label={`Predicted and actual share of ${of}`}
        data={{
          datasets: [
            {
              label: 'Came about',
              data: checked.bins.map(({ predicted, came }) => percent(predicted, came)),
              backgroundColor: chartColour('kelp-solid'),
              pointRadius: 5,
            },
            {
              label: 'Interval of 90 %',
              data: checked.bins.flatMap(({ predicted, low, high }) => [
                percent(predicted, low),
                percent(predicted, high),
                { x: NaN, y: NaN },
              ]),
              ...{ borderColor: chartColour('kelp-solid'), borderWidth: 1.5, pointRadius: 0, showLine: true },
            },
            {
              label: 'As predicted',
              data: [percent(0, 0), percent(1, 1)],
              ...{ borderColor: chartColour('muted'), borderDash: [5, 4], borderWidth: 1, pointRadius: 0 },
              showLine: true,
            },
          ],
        }}
        options={{
          ...{ animation: false, maintainAspectRatio: false },
          scales: {
            x: { min: 0, max: 100, ...chartAxis('Predicted, %') },
            y: { min: 0, max: 100, ...chartAxis('Came about, %') },
          },
          plugins: { legend: { labels: { boxWidth: 14, color: chartColour('muted') } } },
        }}
      />
    </Box>
  );
}
