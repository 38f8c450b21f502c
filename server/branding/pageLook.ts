import type { Almanac } from '../almanac.ts';
import { settingsOf } from '../settings/settings.ts';
import type { PageLook } from './messages.ts';
import { pictureOf } from './uploads.ts';

/** How customers' own pages look now: the business's colours, logo and icon. */
export async function pageLookOf(almanac: Almanac): Promise<PageLook> {
  const { mainColour, accentColour, logo, icon } = await settingsOf(almanac, 'branding');
  return {
    ...{ mainColour, accentColour },
    logo: await pictureOf(almanac, logo),
    icon: await pictureOf(almanac, icon),
  };
}
