import { useState } from 'react';
import type { OfferedRateView, PublicPage } from '../../server/signUp/messages.ts';
import { Html } from './Html.tsx';
import { sayRate, saySaving, sayTrial, useSaying } from './saying.ts';

/** The rhythm of a rate, as rates of several plans are held beside each other. */
const rhythmOf = ({ interval, payments }: OfferedRateView) =>
  interval === null ? 'once' : `${interval.count}${interval.unit}${payments === null ? '' : `×${payments}`}`;

/** All that a page offers side by side, with a switch between the rhythms in which it is paid. */
export function PlansBeside({ page }: { readonly page: PublicPage }) {
  const saying = useSaying();
  const { words } = saying;
  const rhythms = [...new Map(page.rates.map((rate) => [rhythmOf(rate), rate])).entries()];
  const first = page.rates.find(({ id }) => id === page.firstRate) ?? page.rates[0];
  const [rhythm, setRhythm] = useState(first ? rhythmOf(first) : '');
  return (
    <div className="sheet">
      <h1>{page.title}</h1>
      {rhythms.length > 1 && (
        <div className="switch" role="radiogroup" aria-label={words.labels.pay}>
          {rhythms.map(([name, { interval, payments }]) => (
            <label key={name}>
              <input
                type="radio"
                name="rhythm"
                value={name}
                checked={rhythm === name}
                onChange={() => setRhythm(name)}
              />
              {interval === null ? words.once : words.every(interval)}
              {payments === null ? '' : `, ${words.times(payments)}`}
            </label>
          ))}
        </div>
      )}
      <div className="plans">
        {page.plans.map((plan) => {
          const rates = page.rates.filter(({ planId }) => planId === plan.id);
          const rate = rates.find((one) => rhythmOf(one) === rhythm) ?? rates[0];
          if (!rate) return null;
          const more = [saySaving(rate, saying), sayTrial(rate, saying)].filter(Boolean);
          return (
            <article key={plan.id} aria-labelledby={`plan-${plan.id}`}>
              <h2 id={`plan-${plan.id}`}>{plan.name}</h2>
              <p className="price">{sayRate(rate, saying)}</p>
              {more.map((one) => (
                <p key={one} className="quiet">
                  {one}
                </p>
              ))}
              {plan.picture && <img src={plan.picture} alt="" className="picture" loading="lazy" />}
              <Html text={plan.text} />
              <a
                className="button"
                href={`/join/${encodeURIComponent(page.key)}?rate=${rate.id}&language=${page.language}`}
                aria-label={`${words.labels.join}: ${plan.name}`}
              >
                {page.labels.join || words.labels.join}
              </a>
            </article>
          );
        })}
      </div>
    </div>
  );
}
