import { createHash, randomBytes } from 'node:crypto';
import { Secret, TOTP } from 'otpauth';
import QRCode from 'qrcode';
import type { Almanac } from '../almanac.ts';
import { recordDone } from '../audit/audit.ts';
import { Business } from '../business/Business.ts';
import { RefusedCommand } from '../http/problem.ts';
import { seal, unseal } from '../secrets/seal.ts';
import { businessDateOf } from '../business/businessDate.ts';
import type { Person } from './Person.ts';
import { tellOfSafety } from './tellOfSafety.ts';

/** Recovery codes given at a time. */
const CODES = 10;

const place = (person: Person) => `second factor:${person.id}`;

async function totpOf(almanac: Almanac, person: Person): Promise<TOTP> {
  const { name } = await Business.findOne({ rejectOnEmpty: true });
  return new TOTP({
    issuer: `${name}, Keen Almanac`.replace(/:/g, ' '),
    label: person.email,
    secret: Secret.fromBase32(unseal(almanac, place(person), person.secondFactor ?? '')),
  });
}

/** Begins with a second factor (RFC 6238): the secret as a QR code to scan, and in letters to type. Not on yet. */
export async function beginSecondFactor(
  almanac: Almanac,
  person: Person,
): Promise<{ qr: string; letters: string }> {
  if (person.secondFactorOn)
    throw new RefusedCommand(409, 'The second factor is on already. Turn it off first.');
  const letters = new Secret({ size: 20 }).base32;
  await person.update({ secondFactor: seal(almanac, place(person), letters), lastFactorStep: null });
  const totp = await totpOf(almanac, person);
  const qr = await QRCode.toString(totp.toString(), { type: 'svg', errorCorrectionLevel: 'M', margin: 2 });
  return { qr: `data:image/svg+xml;base64,${Buffer.from(qr).toString('base64')}`, letters };
}

/** Turns it on with a first right code, and gives recovery codes: shown once, kept as hashes. */
export async function confirmSecondFactor(
  almanac: Almanac,
  person: Person,
  code: string,
): Promise<{ recoveryCodes: string[] }> {
  if (person.secondFactor === null || person.secondFactorOn)
    throw new RefusedCommand(409, 'Begin with the second factor first.');
  if (!(await takeTimedCode(almanac, person, code)))
    throw new RefusedCommand(422, 'That is not the code of this moment. Look at your device again.', '/code');
  const recoveryCodes = Array.from({ length: CODES }, () => {
    const letters = randomBytes(10).toString('hex');
    return `${letters.slice(0, 5)}-${letters.slice(5, 10)}-${letters.slice(10, 15)}-${letters.slice(15)}`;
  });
  const today = await businessDateOf(almanac);
  await almanac.db.transaction(async (within) => {
    await person.update({ secondFactorOn: true }, { transaction: within });
    await almanac.db.rows('delete from recovery_codes where person_id = $id', { id: person.id }, within);
    for (const one of recoveryCodes) {
      await almanac.db.rows(
        'insert into recovery_codes (person_id, code_hash) values ($id, $hash)',
        { id: person.id, hash: hashOf(one) },
        within,
      );
    }
    await tellOfSafety(almanac, person, 'Your second factor was turned on', today, within);
    await recordDone(almanac, { did: 'turned the second factor on', subject: person.name }, within);
  });
  return { recoveryCodes };
}

export async function turnOffSecondFactor(almanac: Almanac, person: Person): Promise<void> {
  const today = await businessDateOf(almanac);
  await almanac.db.transaction(async (within) => {
    await person.update(
      { secondFactorOn: false, secondFactor: null, lastFactorStep: null },
      { transaction: within },
    );
    await almanac.db.rows('delete from recovery_codes where person_id = $id', { id: person.id }, within);
    await tellOfSafety(almanac, person, 'Your second factor was turned off', today, within);
    await recordDone(almanac, { did: 'turned the second factor off', subject: person.name }, within);
  });
}

/** Whether a code is good: of this moment and not used before, or a recovery code, which is used up by it. */
export async function takeCode(almanac: Almanac, person: Person, code: string): Promise<boolean> {
  if (/^\d{6}$/.test(code.replace(/\s/g, ''))) return takeTimedCode(almanac, person, code.replace(/\s/g, ''));
  const used = await almanac.db.row(
    `update recovery_codes set used_at = now()
     where person_id = $id and code_hash = $hash and used_at is null returning 1 as used`,
    { id: person.id, hash: hashOf(code) },
  );
  if (used) await recordDone(almanac, { did: 'used a recovery code', subject: person.name });
  return used !== null;
}

async function takeTimedCode(almanac: Almanac, person: Person, code: string): Promise<boolean> {
  const totp = await totpOf(almanac, person);
  const delta = totp.validate({ token: code, window: 1 });
  if (delta === null) return false;
  const step = totp.counter() + delta;
  const taken = await almanac.db.row(
    `update people set last_factor_step = $step
     where id = $id and (last_factor_step is null or last_factor_step < $step) returning 1 as taken`,
    { id: person.id, step },
  );
  return taken !== null;
}

function hashOf(code: string): Buffer {
  return createHash('sha256')
    .update(
      code
        .trim()
        .toLowerCase()
        .replace(/[^0-9a-f]/g, ''),
    )
    .digest();
}
