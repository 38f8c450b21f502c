import type { Transaction } from 'sequelize';
import type { Almanac } from '../almanac.ts';
import { settingsOf } from '../settings/settings.ts';
import type { LetterLook } from './layOut.ts';

/** How letters look now: the business's colour and logo. Mail programs show no SVG, so that a drawing goes as pixels. */
export async function lookOf(almanac: Almanac, within?: Transaction): Promise<LetterLook> {
  const { mainColour, logo } = await settingsOf(almanac, 'branding', within);
  if (logo === null) return { mainColour, logo: null };
  const upload = await almanac.db.row<{ address: string; media_type: string }>(
    'select address, media_type from uploads where id = $logo',
    { logo },
    within,
  );
  if (upload === null) return { mainColour, logo: null };
  const form = upload.media_type === 'image/svg+xml' ? '.png' : '';
  return { mainColour, logo: `${almanac.config.ALMANAC_URL}/pictures/${upload.address}${form}` };
}
