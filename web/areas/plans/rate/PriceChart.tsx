import { Box } from '@chakra-ui/react';
import { useDeferredValue, useMemo } from 'react';
import { Line } from 'react-chartjs-2';
import { minorDigits } from '../../../../core/money/currency.ts';
import { fullPrice, listPrice } from '../../../../core/pricing/listPrice.ts';
import type { TermsPrice } from '../../../../core/terms/schema.ts';
import '../../../parts/chartParts.ts';

interface Props {
  readonly price: TermsPrice;
  readonly currency: string;
  /** Last quantities of tiers, which are marked. */
  readonly joins: readonly number[];
}

const POINTS = 240;

/** The price and the price of one unit against the quantity, with the joins of the tiers marked. */
export default function PriceChart({ price, currency, joins }: Props) {
  // Typing goes first; the chart follows when there is time.
  const shown = useDeferredValue(JSON.stringify({ price, currency, joins }));
  const data = useMemo(() => {
    const asked = JSON.parse(shown) as Props;
    return pointsOf(asked);
  }, [shown]);
  const colour = (name: string) =>
    getComputedStyle(document.documentElement).getPropertyValue(`--chakra-colors-${name}`);
  const axis = { ticks: { color: colour('muted') }, grid: { color: colour('lines') } };
  return (
    <Box h="220px">
      <Line
        role="img"
        aria-label="Price, and price of one, against the quantity"
        data={{
          datasets: [
            {
              label: `Price, ${currency}`,
              data: data.whole,
              borderColor: colour('kelp-solid'),
              pointRadius: 0,
              borderWidth: 2,
              yAxisID: 'y',
            },
            {
              label: 'Price of one',
              data: data.each,
              borderColor: colour('planned'),
              borderDash: [5, 4],
              pointRadius: 0,
              borderWidth: 1.5,
              yAxisID: 'each',
            },
            {
              label: 'Last of a tier',
              data: data.joins,
              borderColor: colour('trial'),
              backgroundColor: colour('trial'),
              pointRadius: 4,
              pointStyle: 'rect',
              showLine: false,
              yAxisID: 'y',
            },
          ],
        }}
        options={{
          animation: false,
          maintainAspectRatio: false,
          parsing: false,
          scales: {
            x: {
              type: 'linear',
              min: 0,
              title: { display: true, text: 'Quantity', color: colour('muted') },
              ...axis,
            },
            y: { type: 'linear', beginAtZero: true, ...axis },
            each: {
              type: 'linear',
              position: 'right',
              beginAtZero: true,
              ticks: axis.ticks,
              grid: { display: false },
            },
          },
          plugins: { legend: { labels: { boxWidth: 14, color: colour('muted') } } },
        }}
      />
    </Box>
  );
}

function pointsOf({ price, currency, joins }: Props) {
  const digits = minorDigits(currency);
  const unit = 10 ** digits;
  const at = (x: number) => Number(fullPrice(listPrice(price, x, digits, 1), 1)) / unit;
  const most = Math.max(10, Math.ceil((joins.at(-1) ?? 20) * 1.4));
  const step = Math.max(1, Math.floor(most / POINTS));
  const quantities = new Set<number>();
  for (let x = 1; x <= most; x += step) quantities.add(x);
  // A step is drawn where it is: at the last quantity of a tier and the first of the next.
  for (const join of joins) {
    quantities.add(join);
    quantities.add(join + 1);
  }
  const xs = [...quantities].sort((a, b) => a - b);
  return {
    whole: xs.map((x) => ({ x, y: at(x) })),
    each: xs.map((x) => ({ x, y: at(x) / x })),
    joins: joins.map((x) => ({ x, y: at(x) })),
  };
}
