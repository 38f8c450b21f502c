import {
  formatHex,
  modeHsl,
  modeHwb,
  modeLab,
  modeLch,
  modeLrgb,
  modeOklab,
  modeOklch,
  modeRgb,
  modeXyz50,
  modeXyz65,
  parse,
  useMode,
  wcagContrast,
} from 'culori/fn';

// The notations of colours that are read, with the spaces between them: nothing else of the package is loaded in browsers.
for (const mode of [modeLrgb, modeXyz50, modeXyz65, modeRgb, modeHsl, modeHwb, modeLab, modeLch, modeOklab])
  useMode(mode as typeof modeRgb);
const toOklch = useMode(modeOklch);

/**
 * A colour in any notation of CSS (hex with or without its hash, rgb(), hsl(), lab(), oklch(), a name) as
 * `#rrggbb`, or null where it is none. Colours outside of sRGB come to the nearest inside; see-through ones as if
 * they were not.
 */
export function readColour(text: string): string | null {
  const typed = text.trim().replace(/;$/, '').toLowerCase();
  const bare = /^([0-9a-f]{3}|[0-9a-f]{6})$/.test(typed) ? `#${typed}` : typed;
  const triple = /^(\d{1,3})[\s,;]+(\d{1,3})[\s,;]+(\d{1,3})$/.exec(bare);
  const colour = parse(triple ? `rgb(${triple[1]}, ${triple[2]}, ${triple[3]})` : bare);
  return colour ? formatHex({ ...colour, alpha: 1 }) : null;
}

/** The contrast of two colours by WCAG 2: 1 to 21. */
export function contrastOf(one: string, other: string): number {
  return wcagContrast(one, other);
}

/** What can be read on a ground of this colour: white or ink, whichever stands out more; always at least 4.5 : 1. */
export function inkOn(ground: string): '#ffffff' | '#16262b' | '#000000' {
  if (contrastOf('#ffffff', ground) >= 4.5) return '#ffffff';
  return contrastOf('#16262b', ground) >= 4.5 ? '#16262b' : '#000000';
}

/** The colour itself where it can be read on a ground, or the nearest darker (on a dark ground: lighter) one that can. */
export function legibleOn(colour: string, ground: string): string {
  if (contrastOf(colour, ground) >= 4.5) return colour;
  const start = toOklch(colour);
  if (!start) return inkOn(ground);
  const darker = contrastOf('#000000', ground) > contrastOf('#ffffff', ground);
  for (let step = 1; step <= 50; step += 1) {
    const l = darker ? start.l * (1 - step / 50) : start.l + (1 - start.l) * (step / 50);
    const tried = formatHex({ ...start, l });
    if (contrastOf(tried, ground) >= 4.5) return tried;
  }
  return inkOn(ground);
}

/** How customers' own pages look. */
export interface PageLook {
  readonly mainColour: string;
  readonly accentColour: string;
  readonly logo: string | null;
  readonly icon: string | null;
}
