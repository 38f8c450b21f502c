import { fileURLToPath } from 'node:url';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';
import { compressed } from './vite.compressed.ts';

/**
 * What is loaded together, the first named first: whatever a group needs goes along with it, unless an earlier one has it.
 * A page is its own file beside a few of these, so that no page loads many. `./almanac bench web` says what each loads.
 */
const GROUPS = [
  // Of every page, customers' too.
  { name: 'start', tags: ['$initial' as const] },
  // Of every page of the desk, with what nearly all of them show.
  {
    name: 'desk',
    test: anyOf(
      'web/frame/(Frame|PageAndMargin|PageLoading|ForWriters|useFrame)',
      'web/parts/(sayWithExpiry|StateMark|ThreadLine|Charges|sayCount|ShownText|threadWindow|QuantityField|list/Choice)',
      'core/offer/kinds',
      'server/subscriptions/states',
      'core/words/(amount|date)\\.ts',
    ),
  },
  // Small parts of forms and margins.
  {
    name: 'controls',
    test: anyOf(
      'node_modules/@zag-js/(dom-query|utils|core|types|presence|dismissable|interact-outside|focus-visible|aria-hidden|rect-utils)/',
      'components/(radio-group|checkbox|portal)/',
      'web/parts/(AmountField|TickField|Confirm|Archive|Correspondence|PricesBeside|Fold|Part\\.|sayInstant|sayName)',
      'web/parts/alter/alteration',
      'core/offer/variant',
      'web/areas/(plans/MoveEffect|customers/Messages)',
    ),
  },
  // What opens over a page.
  { name: 'over', test: anyOf('components/(dialog|menu)/', 'node_modules/(@floating-ui|@zag-js/popper)/') },
  { name: 'list', test: anyOf('web/parts/list/ListPage') },
  { name: 'chart', test: anyOf('node_modules/(chart\\.js|react-chartjs-2|@kurkle)/') },
  {
    name: 'editor',
    test: anyOf('node_modules/(@tiptap|prosemirror-[a-z]+|linkifyjs|fast-equals)/'),
  },
  // Forms that check what is typed.
  {
    name: 'forms',
    test: anyOf(
      'node_modules/(zod|react-hook-form|@hookform|culori)/',
      'web/(zod|areas/setup/SectionForm)',
      'web/parts/(useKeptForm|useDraftForm|Conflict|KeptNote|formWords|liveFaults)',
      'core/words/countries',
      'server/(settings|branding|staff|policies)/messages',
    ),
  },
  // The calculation.
  {
    name: 'terms',
    test: anyOf(
      '/core/(terms|pricing|listing|schedule|settlement|offer/(?!planLines)|words/(?!languages|explainFirst|signUp)|thread|value|agreed)',
      'server/(?!imports|signUp|taxes|calendar|programs|gateways|run|customers/((file|contact|merge|own)M|messages)|reckonings/(many|firstLetter))[a-zA-Z]+/\\w*[mM]essages\\.ts',
      'web/parts/(TermsPreview|previewTerms)',
      'web/api/useLaw',
    ),
  },
  { name: 'plans', test: anyOf('web/areas/plans/(PlanFields|(rate|plan)/(?!PriceChart))') },
  // How customers pay, and their own sheet.
  {
    name: 'methods',
    test: anyOf(
      'web/parts/(PlaceFields|CardFields|card\\.|Practice|CardOrBank|bank\\.|TakeCard|ReadOnReader|CustomerSheet)',
    ),
  },
  // Enrolling one customer; several are enrolled by a page of its own, of the same parts.
  {
    name: 'enrol',
    test: anyOf(
      'web/areas/subscriptions/(EnrolPage|ContactFields|enrol/(?!(AlsoFields|FirstLetter|MakeRate|OwnFields|WithLetters|newRate)\\.))',
    ),
  },
].map((group, i, all) => ({ ...group, priority: all.length - i }));

function anyOf(...paths: readonly string[]): RegExp {
  return new RegExp(paths.join('|'));
}

export default defineConfig({
  root: 'web',
  resolve: { alias: [{ find: /^zod$/, replacement: fileURLToPath(new URL('web/zod.ts', import.meta.url)) }] },
  plugins: [react(), compressed()],
  build: {
    outDir: '../dist/web',
    emptyOutDir: true,
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 700,
    rolldownOptions: {
      // They only describe: the recipes of parts that are not used here are left out.
      treeshake: {
        manualPureFunctions: [
          'defineConfig',
          'mergeConfigs',
          'createSystem',
          'defineRecipe',
          'defineSlotRecipe',
        ],
      },
      output: { codeSplitting: { groups: GROUPS } },
    },
  },
});
