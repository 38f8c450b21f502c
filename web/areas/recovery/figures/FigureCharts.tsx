import { Box } from '@chakra-ui/react';
import { Chart } from 'react-chartjs-2';
import '../../../parts/chartParts.ts';
import { chartAxis, chartColour } from '../../../parts/chartColours.ts';

interface Part {
  readonly label: string;
  /** A colour of the look. */
  readonly colour: string;
  readonly values: readonly number[];
}

/** Bars of several parts on top of each other, with a share in percent as a line where there is one. */
export function StackedBars(props: {
  readonly says: string;
  readonly labels: readonly string[];
  readonly unit: string;
  readonly parts: readonly Part[];
  readonly rates?: readonly (number | null)[];
  readonly lying?: boolean;
}) {
  const { says, labels, unit, parts, rates, lying = false } = props;
  const colour = chartColour;
  const amounts = { ...chartAxis(unit), stacked: true, beginAtZero: true };
  const names = { ...chartAxis(), stacked: true, ticks: { color: colour('ink') } };
  return (
    <Box h={lying ? `${90 + labels.length * 34}px` : '260px'} maxW="860px">
      <Chart
        type="bar"
        role="img"
        aria-label={says}
        data={{
          labels: [...labels],
          datasets: [
            ...(rates
              ? [
                  {
                    ...{ type: 'line' as const, label: 'Rate, %', yAxisID: 'rate', order: 0 },
                    data: rates.map((rate) => (rate === null ? null : 100 * rate)),
                    ...{ borderColor: colour('ink'), backgroundColor: colour('page') },
                    ...{ borderWidth: 1.5, pointRadius: 4, pointStyle: 'rectRot' as const },
                  },
                ]
              : []),
            ...parts.map(({ label, colour: name, values }) => ({
              ...{ type: 'bar' as const, label, order: 1 },
              data: [...values],
              backgroundColor: colour(name),
              maxBarThickness: lying ? 16 : 34,
            })),
          ],
        }}
        options={{
          ...{ indexAxis: lying ? 'y' : 'x', animation: false, maintainAspectRatio: false },
          scales: lying
            ? { x: amounts, y: names }
            : {
                x: names,
                y: amounts,
                ...(rates
                  ? {
                      rate: {
                        ...chartAxis('Rate, %'),
                        ...{ position: 'right' as const, min: 0, max: 100, grid: { display: false } },
                      },
                    }
                  : {}),
              },
          plugins: { legend: { labels: { boxWidth: 14, color: colour('muted') } } },
        }}
      />
    </Box>
  );
}
