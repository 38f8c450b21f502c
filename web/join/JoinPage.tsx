import { lazy, Suspense, useEffect, useState, type ReactNode } from 'react';
import { WORDS } from '../../core/words/signUp/en.ts';
import type { SignUpWords } from '../../core/words/signUp/words.ts';
import type { PageLanguage } from '../../core/words/signUp/languages.ts';
import { PAGE_LANGUAGES } from '../../core/words/signUp/languages.ts';
import type { PublicPage, SignUpPageInput } from '../../server/signUp/messages.ts';
import { get, withQuery } from '../api/client.ts';
import { SayingContext, sayingIn, useSaying } from './saying.ts';
import { Html } from './Html.tsx';
import { wordsIn } from './words.ts';

/** A page is one of the two: the other is not loaded. */
const JoinForm = lazy(() => import('./JoinForm.tsx').then((part) => ({ default: part.JoinForm })));
const PlansBeside = lazy(() => import('./PlansBeside.tsx').then((part) => ({ default: part.PlansBeside })));

/** A page with the words that it is shown in. */
interface Read {
  readonly page: PublicPage;
  readonly words: SignUpWords;
  /** Of a page that is still being written: what it is made of. */
  readonly draft?: SignUpPageInput;
}

const [, , key = '', below = ''] = location.pathname.split('/');
const query = new URLSearchParams(location.search);
const rehearsal = query.has('rehearsal') ? 'yes' : '';

/** What the page that writes a sign-up page tells the frame in which it is looked at. */
export interface Previewed {
  readonly almanac: 'preview';
  readonly page: PublicPage;
  readonly draft: SignUpPageInput;
}

/** A page on which customers join by themselves, in the look of the business. No sign-in. */
export function JoinPage() {
  const [read, setRead] = useState<Read | null>(null);
  const [says, setSays] = useState('');
  const [language, setLanguage] = useState(query.get('language') ?? '');
  const [again, setAgain] = useState(0);
  useEffect(() => {
    let wanted = true;
    if (key === 'preview') return listenForPreviews((got) => setRead(got));
    void (async () => {
      try {
        const page = await get<PublicPage>(
          withQuery(`/api/join/${encodeURIComponent(key)}`, { language, rehearsal }),
        );
        const words = await wordsIn(page.language);
        if (wanted) setRead({ page, words });
      } catch (error) {
        if (wanted) setSays(error instanceof Error ? error.message : WORDS.away);
      }
    })();
    return () => void (wanted = false);
  }, [language, again]);
  if (!read)
    return (
      <main className="sheet">
        <p role={says ? 'alert' : 'status'}>{says || WORDS.loading}</p>
      </main>
    );
  const { page, words, draft } = read;
  const saying = sayingIn(words, page.locale, page.digits);
  return (
    <SayingContext value={saying}>
      <Sheet page={page} onLanguage={setLanguage}>
        {page.closed !== null ? (
          <Closed page={page} />
        ) : below === 'plans' ? (
          <PlansBeside page={page} />
        ) : (
          <JoinForm
            // What was chosen of another version of the page stays, as far as there is that still.
            key={draft ? 'preview' : page.key}
            page={page}
            rehearsal={rehearsal}
            draft={draft ?? null}
            firstRate={query.get('rate') ?? undefined}
            onChanged={() => setAgain((n) => n + 1)}
          />
        )}
      </Sheet>
    </SayingContext>
  );
}

function listenForPreviews(take: (read: Read) => void): () => void {
  const listen = (event: MessageEvent<Previewed>) => {
    if (event.origin !== location.origin || event.data.almanac !== 'preview') return;
    const { page, draft } = event.data;
    void wordsIn(page.language).then((words) => take({ page, words, draft }));
  };
  window.addEventListener('message', listen);
  window.parent.postMessage({ almanac: 'ready' }, location.origin);
  return () => window.removeEventListener('message', listen);
}

function Sheet({
  page,
  onLanguage,
  children,
}: {
  page: PublicPage;
  onLanguage: (to: string) => void;
  children: ReactNode;
}) {
  const { words } = useSaying();
  const { look, languages, business, title } = page;
  useEffect(() => {
    document.title = `${title}, ${business}`;
    document.documentElement.lang = page.language;
    const root = document.documentElement.style;
    for (const name of ['main', 'onMain', 'heading', 'accent'] as const)
      root.setProperty(`--${name}`, look[name]);
    if (!look.icon) return;
    const icon =
      document.querySelector<HTMLLinkElement>('link[rel="icon"]') ?? document.createElement('link');
    icon.rel = 'icon';
    icon.href = look.icon;
    document.head.append(icon);
  }, [business, look, page.language, title]);
  return (
    <>
      <header className={look.header}>
        <div className="across">
          {look.logo ? <img src={look.logo} alt={business} className="logo" /> : <strong>{business}</strong>}
          {languages.length > 1 && (
            <nav aria-label={words.fields.language}>
              {languages.map((one: PageLanguage) => (
                <button
                  key={one}
                  type="button"
                  className="plain"
                  lang={one}
                  aria-current={one === page.language}
                  onClick={() => onLanguage(one)}
                >
                  {PAGE_LANGUAGES[one]}
                </button>
              ))}
            </nav>
          )}
        </div>
      </header>
      {page.rehearsal && key !== 'preview' && (
        <p className="rehearsal" role="note">
          {words.rehearsal}
        </p>
      )}
      <main>
        <Suspense fallback={<p role="status">{words.loading}</p>}>{children}</Suspense>
      </main>
    </>
  );
}

function Closed({ page }: { readonly page: PublicPage }) {
  const { words } = useSaying();
  return (
    <div className="sheet">
      <h1>{page.title}</h1>
      <Html text={page.text} />
      <p role="status">
        <strong>{page.closed && words.closed[page.closed]}</strong>{' '}
        <a href={`mailto:${page.writeTo}`}>{page.writeTo}</a>
      </p>
    </div>
  );
}
