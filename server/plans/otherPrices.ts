/**
 * Select these of a subscription `s`: the other prices that its variant and its rate card lay over the lines of its
 * rate, as they are now.
 */
export const PRICE_COLUMNS = `
  (select v.prices -> s.rate_id::text from variants v where v.id = s.variant_id) as variant_prices,
  (select x.prices from rate_card_prices x where x.card_id = s.rate_card_id and x.rate_id = s.rate_id
     and (x.variant_id is null or x.variant_id = s.variant_id)
   order by x.variant_id nulls last limit 1) as card_prices`;
