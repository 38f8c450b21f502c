import type { Told } from './framed.ts';

/**
 * Shows a sign-up page on a site: `<script src="https://…/embed.js" data-page="orchard" async></script>` stands where the page
 * is to be; `data-show="plans"` shows what is offered side by side instead, `data-language="de"` names a language. The frame is
 * sandboxed: it can neither reach the site around it nor open anything by itself, and is as high as what it shows.
 */
const script = document.currentScript;
if (script instanceof HTMLScriptElement) show(script);

function show(script: HTMLScriptElement): void {
  const { page = '', show: what = '', language = '', title = '' } = script.dataset;
  const origin = new URL(script.src).origin;
  const address = new URL(`/join/${encodeURIComponent(page)}${what === 'plans' ? '/plans' : ''}`, origin);
  if (language !== '') address.searchParams.set('language', language);
  const frame = document.createElement('iframe');
  frame.src = address.href;
  frame.title = title || 'Join';
  frame.setAttribute(
    'sandbox',
    'allow-scripts allow-forms allow-same-origin allow-popups allow-top-navigation-by-user-activation',
  );
  frame.setAttribute('referrerpolicy', 'no-referrer');
  frame.style.cssText = 'width:100%;border:0;display:block;min-height:320px';
  window.addEventListener('message', (event: MessageEvent<Told>) => {
    if (event.source !== frame.contentWindow || event.origin !== origin) return;
    const { data } = event;
    if (data.almanac === 'height' && data.height > 0) frame.style.height = `${data.height}px`;
    if (data.almanac === 'go' && /^https?:\/\//.test(data.to)) window.location.assign(data.to);
  });
  script.after(frame);
}
