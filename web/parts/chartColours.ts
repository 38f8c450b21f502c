/** A colour of the look as a chart takes it. */
export const chartColour = (name: string) =>
  getComputedStyle(document.documentElement).getPropertyValue(`--chakra-colors-${name}`);

/** The lines and words of an axis. */
export function chartAxis(title?: string) {
  const muted = chartColour('muted');
  return {
    ticks: { color: muted, precision: 0 },
    grid: { color: chartColour('lines') },
    ...(title === undefined ? {} : { title: { display: true, text: title, color: muted } }),
  };
}

/** Lines that stand beside each other, told apart by more than their colour. */
export const LINES = [
  { colour: 'kelp-solid', dash: [], shape: 'circle' },
  { colour: 'trial', dash: [6, 4], shape: 'rect' },
  { colour: 'declined', dash: [2, 3], shape: 'triangle' },
  { colour: 'paused', dash: [9, 3, 2, 3], shape: 'rectRot' },
  { colour: 'ink', dash: [1, 4], shape: 'cross' },
] as const;
export const lineOf = (i: number) => LINES[i % LINES.length] ?? LINES[0];
