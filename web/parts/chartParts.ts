import {
  BarController,
  BarElement,
  CategoryScale,
  Chart,
  Legend,
  LinearScale,
  LineController,
  LineElement,
  PointElement,
  ScatterController,
  Tooltip,
} from 'chart.js';

/** The parts of charts that the desk draws with; whoever draws one imports this for them. */
Chart.register(
  ...[BarController, LineController, ScatterController, BarElement, LineElement, PointElement],
  ...[CategoryScale, LinearScale, Legend, Tooltip],
);
