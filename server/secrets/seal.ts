import { createCipheriv, createDecipheriv, randomBytes } from 'node:crypto';
import { DEMO_MARK, type Config } from '../config.ts';

/** Whatever knows the key of the environment. */
interface Keyed {
  readonly config: Pick<Config, 'ALMANAC_KEY'>;
}

const FORM = 'sealed-1';

/**
 * Encrypts a secret that is to be stored (AES-256-GCM, with the key of the environment). `what` names its place,
 * such as `gateway:7`: a sealed text that is moved to another place does not open there.
 */
export function seal(almanac: Keyed, what: string, secret: string): string {
  const nonce = randomBytes(12);
  const cipher = createCipheriv('aes-256-gcm', keyOf(almanac), nonce).setAAD(Buffer.from(what));
  const sealed = Buffer.concat([cipher.update(secret, 'utf8'), cipher.final()]);
  return [FORM, nonce, cipher.getAuthTag(), sealed]
    .map((part) => (typeof part === 'string' ? part : part.toString('base64url')))
    .join('.');
}

/**
 * Opens what `seal` made under the same key and for the same place.
 * @throws {@link CannotOpen} where either is another, or the text was tampered with
 */
export function unseal(almanac: Keyed, what: string, text: string): string {
  const [form, nonce = '', tag = '', sealed = ''] = text.split('.');
  try {
    if (form !== FORM) throw new Error(`of an unknown form: ${form}`);
    const decipher = createDecipheriv('aes-256-gcm', keyOf(almanac), Buffer.from(nonce, 'base64url'))
      .setAAD(Buffer.from(what))
      .setAuthTag(Buffer.from(tag, 'base64url'));
    return decipher.update(Buffer.from(sealed, 'base64url'), undefined, 'utf8') + decipher.final('utf8');
  } catch (cause) {
    throw new CannotOpen(what, { cause });
  }
}

/** A stored secret that the key of the environment does not open. */
export class CannotOpen extends Error {
  constructor(what: string, options: ErrorOptions) {
    super(`The stored secret of ${what} cannot be opened: was ALMANAC_KEY changed?`, options);
    this.name = 'CannotOpen';
  }
}

function keyOf({ config }: Keyed): Buffer {
  return Buffer.from(config.ALMANAC_KEY.replace(DEMO_MARK, ''), 'base64');
}
