/**
 * Currencies of ISO 4217 and the exponent of their minor unit: an amount of money is a whole number of
 * minor units (pence for GBP, yen for JPY, fils for KWD). Funds codes, metals and test codes are left out.
 */
const BY_EXPONENT: Readonly<Record<number, string>> = {
  0: 'BIF CLP DJF GNF ISK JPY KMF KRW PYG RWF UGX UYI VND VUV XAF XOF XPF',
  2:
    'AED AFN ALL AMD ANG AOA ARS AUD AWG AZN BAM BBD BDT BGN BMD BND BOB BRL BSD BTN BWP BYN BZD CAD CDF ' +
    'CHF CNY COP CRC CUP CVE CZK DKK DOP DZD EGP ERN ETB EUR FJD FKP GBP GEL GHS GIP GMD GTQ GYD HKD HNL ' +
    'HTG HUF IDR ILS INR IRR JMD KES KGS KHR KPW KYD KZT LAK LBP LKR LRD LSL MAD MDL MGA MKD MMK MNT MOP ' +
    'MRU MUR MVR MWK MXN MYR MZN NAD NGN NIO NOK NPR NZD PAB PEN PGK PHP PKR PLN QAR RON RSD RUB SAR SBD ' +
    'SCR SDG SEK SGD SHP SLE SOS SRD SSP STN SVC SYP SZL THB TJS TMT TOP TRY TTD TWD TZS UAH USD UYU UZS ' +
    'VED VES WST XCD XCG YER ZAR ZMW ZWG',
  3: 'BHD IQD JOD KWD LYD OMR TND',
  4: 'CLF UYW',
};

const EXPONENTS: ReadonlyMap<string, number> = new Map(
  Object.entries(BY_EXPONENT).flatMap(([exponent, codes]) =>
    codes.split(' ').map((code) => [code, Number(exponent)] as const),
  ),
);

/** All currency codes known, in alphabetical order. */
export const CURRENCIES: readonly string[] = [...EXPONENTS.keys()].sort();

/** The number of decimals of a currency (GBP 2, JPY 0, KWD 3), or null where the code is unknown. */
export function exponentOf(currency: string): number | null {
  return EXPONENTS.get(currency) ?? null;
}

/** The exponent of a currency that is known to be valid; throws a RangeError where it is not. */
export function minorDigits(currency: string): number {
  const exponent = exponentOf(currency);
  if (exponent === null) throw new RangeError(`not a currency of ISO 4217: ${currency}`);
  return exponent;
}
