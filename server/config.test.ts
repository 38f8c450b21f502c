import { describe, expect, test } from 'vitest';
import { MissingConfiguration, readConfig, refuseUnsafe } from './config.ts';

const ENVIRONMENT = {
  DATABASE_URL: 'postgres://almanac@127.0.0.1:5432/almanac',
  GATEWAY_URL: 'https://gateway.example',
  ALMANAC_SECRET: 'a secret of the tests that is long enough',
  ALMANAC_KEY: Buffer.from('a key of 32 bytes for the tests!').toString('base64'),
  ALMANAC_URL: 'https://almanac.example',
};

describe('production', () => {
  test('is not served with a button that lets strangers in, nor without https', () => {
    const unsafe = readConfig({
      ...ENVIRONMENT,
      ALMANAC_DEMO: 'true',
      ALMANAC_URL: 'http://almanac.example',
    });
    expect(() => refuseUnsafe(unsafe, true)).not.toThrow();
    expect(() => refuseUnsafe(unsafe, false)).toThrow(/ALMANAC_DEMO: leave it out[^]*ALMANAC_URL: https/);
    const safe = readConfig({ ...ENVIRONMENT, ALMANAC_URL: 'https://almanac.example' });
    expect(() => refuseUnsafe(safe, false)).not.toThrow();
  });

  test('sends keys and letters unprotected beyond this machine only where somebody says so', () => {
    const plain = { GATEWAY_URL: 'http://gateway.example', SMTP_URL: 'smtp://mail.example:25' };
    expect(() => readConfig({ ...ENVIRONMENT, ...plain })).toThrow(MissingConfiguration);
    expect(() => readConfig({ ...ENVIRONMENT, ...plain })).toThrow(/GATEWAY_URL[^]*SMTP_URL/);
    expect(() => readConfig({ ...ENVIRONMENT, ...plain, ALMANAC_ALLOW_PLAIN: 'gateway' })).toThrow(
      /SMTP_URL/,
    );
    expect(() =>
      readConfig({ ...ENVIRONMENT, ...plain, ALMANAC_ALLOW_PLAIN: 'gateway, mail' }),
    ).not.toThrow();
    for (const SMTP_URL of [
      'smtps://mail.example',
      'smtp://mail.example?requireTLS=true',
      'smtp://127.0.0.1:25',
    ])
      expect(() => readConfig({ ...ENVIRONMENT, SMTP_URL })).not.toThrow();
    expect(() => readConfig({ ...ENVIRONMENT, TRUST_PROXY: 'everybody, please' })).toThrow(/TRUST_PROXY/);
    expect(readConfig({ ...ENVIRONMENT, TRUST_PROXY: '10.0.0.0/8, loopback' }).TRUST_PROXY).toBe(
      '10.0.0.0/8, loopback',
    );
  });
});
