import { ChakraProvider } from '@chakra-ui/react';
import '@fontsource-variable/literata';
import '@fontsource-variable/public-sans';
import { lazy, StrictMode, Suspense } from 'react';
import { createRoot } from 'react-dom/client';
import { ErrorBoundary } from 'react-error-boundary';
import { BrowserRouter, useLocation, useRoutes } from 'react-router';
import { Broken } from './frame/Broken.tsx';
import { FrameLoading } from './frame/FrameLoading.tsx';
import { preferredEdition, showEdition } from './frame/edition.ts';
import { system } from './theme.ts';

showEdition(preferredEdition());

const Frame = lazy(() => import('./frame/Frame.tsx').then((part) => ({ default: part.Frame })));
const page = (load: () => Promise<Record<string, unknown>>, name: string) =>
  lazy(() => load().then((part) => ({ default: part[name] as React.ComponentType })));

/** The pages of Setup, each loaded when it is first opened. */
const SETUP: Readonly<Record<string, () => Promise<Record<string, unknown>>>> = {
  StartPage: () => import('./areas/setup/StartPage.tsx'),
  ReadinessPage: () => import('./areas/setup/ReadinessPage.tsx'),
  BusinessPage: () => import('./areas/setup/BusinessPage.tsx'),
  LookPage: () => import('./areas/setup/LookPage.tsx'),
  InvoicesPage: () => import('./areas/setup/InvoicesPage.tsx'),
  CustomersSetupPage: () => import('./areas/setup/CustomersSetupPage.tsx'),
  PoliciesPage: () => import('./areas/setup/PoliciesPage.tsx'),
  GatewaysPage: () => import('./areas/setup/GatewaysPage.tsx'),
  GatewayReturnPage: () => import('./areas/setup/GatewayReturnPage.tsx'),
  RecoveryPage: () => import('./areas/setup/RecoveryPage.tsx'),
  TaxesPage: () => import('./areas/setup/TaxesPage.tsx'),
  CalendarPage: () => import('./areas/setup/CalendarPage.tsx'),
  PeoplePage: () => import('./areas/setup/PeoplePage.tsx'),
  MailPage: () => import('./areas/setup/MailPage.tsx'),
  KeysPage: () => import('./areas/setup/KeysPage.tsx'),
  AuditPage: () => import('./areas/setup/AuditPage.tsx'),
  SitesPage: () => import('./areas/setup/SitesPage.tsx'),
  SecurityPage: () => import('./areas/setup/SecurityPage.tsx'),
  MePage: () => import('./areas/setup/MePage.tsx'),
};
const setup = (name: string) => {
  const Page = page(SETUP[name] ?? (() => Promise.reject(new Error(`no page ${name}`))), name);
  return <Page />;
};

const DaySheetPage = page(() => import('./areas/days/DaySheetPage.tsx'), 'DaySheetPage');
const SpanPage = page(() => import('./areas/days/SpanPage.tsx'), 'SpanPage');
const PlansPage = page(() => import('./areas/plans/PlansPage.tsx'), 'PlansPage');
const NewPlanPage = page(() => import('./areas/plans/NewPlanPage.tsx'), 'NewPlanPage');
const OfferFilePage = page(() => import('./areas/plans/OfferFilePage.tsx'), 'OfferFilePage');
const PlanPage = page(() => import('./areas/plans/PlanPage.tsx'), 'PlanPage');
const EditPlanPage = page(() => import('./areas/plans/EditPlanPage.tsx'), 'EditPlanPage');
const VariantPage = page(() => import('./areas/plans/VariantPage.tsx'), 'VariantPage');
const RateCardsPage = page(() => import('./areas/rateCards/RateCardsPage.tsx'), 'RateCardsPage');
const RateCardPage = page(() => import('./areas/rateCards/RateCardPage.tsx'), 'RateCardPage');
const RatePage = page(() => import('./areas/plans/RatePage.tsx'), 'RatePage');
const RateSubscribersPage = page(
  () => import('./areas/plans/RateSubscribersPage.tsx'),
  'RateSubscribersPage',
);
const SignUpPagesPage = page(() => import('./areas/signUp/SignUpPagesPage.tsx'), 'SignUpPagesPage');
const SignUpPagePage = page(() => import('./areas/signUp/SignUpPagePage.tsx'), 'SignUpPagePage');
const NewSignUpPage = page(() => import('./areas/signUp/EditSignUpPage.tsx'), 'NewSignUpPage');
const EditSignUpPage = page(() => import('./areas/signUp/EditSignUpPage.tsx'), 'EditSignUpPage');
const DiscountsPage = page(() => import('./areas/discounts/DiscountsPage.tsx'), 'DiscountsPage');
const CustomersPage = page(() => import('./areas/customers/CustomersPage.tsx'), 'CustomersPage');
const CustomerPage = page(() => import('./areas/customers/CustomerPage.tsx'), 'CustomerPage');
const SubscriptionsPage = page(
  () => import('./areas/subscriptions/SubscriptionsPage.tsx'),
  'SubscriptionsPage',
);
const SubscriptionPage = page(() => import('./areas/subscriptions/SubscriptionPage.tsx'), 'SubscriptionPage');
const EnrolPage = page(() => import('./areas/subscriptions/EnrolPage.tsx'), 'EnrolPage');
const EnrolManyPage = page(() => import('./areas/subscriptions/EnrolManyPage.tsx'), 'EnrolManyPage');
const ImportsPage = page(() => import('./areas/imports/ImportsPage.tsx'), 'ImportsPage');
const ImportPage = page(() => import('./areas/imports/ImportPage.tsx'), 'ImportPage');
const InvoicesPage = page(() => import('./areas/invoices/InvoicesPage.tsx'), 'InvoicesPage');
const InvoicePage = page(() => import('./areas/invoices/InvoicePage.tsx'), 'InvoicePage');
const DraftsPage = page(() => import('./areas/subscriptions/DraftsPage.tsx'), 'DraftsPage');
const CreditNotesPage = page(() => import('./areas/invoices/CreditNotesPage.tsx'), 'CreditNotesPage');
const PaymentsPage = page(() => import('./areas/payments/PaymentsPage.tsx'), 'PaymentsPage');
const PaymentPage = page(() => import('./areas/payments/PaymentPage.tsx'), 'PaymentPage');
const TakePage = page(() => import('./areas/payments/TakePage.tsx'), 'TakePage');
const AccountPage = page(() => import('./areas/customers/AccountPage.tsx'), 'AccountPage');
const CreditPage = page(() => import('./areas/customers/CreditPage.tsx'), 'CreditPage');
const SuspensionsPage = page(() => import('./areas/recovery/SuspensionsPage.tsx'), 'SuspensionsPage');
const LaddersPage = page(() => import('./areas/recovery/LaddersPage.tsx'), 'LaddersPage');
const LadderPage = page(() => import('./areas/recovery/LadderPage.tsx'), 'LadderPage');
const CasesPage = page(() => import('./areas/recovery/CasesPage.tsx'), 'CasesPage');
const ExpiringCardsPage = page(() => import('./areas/recovery/ExpiringCardsPage.tsx'), 'ExpiringCardsPage');
const RecoveryFiguresPage = page(
  () => import('./areas/recovery/figures/RecoveryFiguresPage.tsx'),
  'RecoveryFiguresPage',
);
const WhatIfPage = page(() => import('./areas/recovery/whatIf/WhatIfPage.tsx'), 'WhatIfPage');
const LetterbookPage = page(() => import('./areas/notices/LetterbookPage.tsx'), 'LetterbookPage');
const LetterWordsPage = page(() => import('./areas/notices/words/LetterWordsPage.tsx'), 'LetterWordsPage');
const StopLettersPage = page(() => import('./areas/own/StopLettersPage.tsx'), 'StopLettersPage');
const OwnPage = page(() => import('./areas/own/OwnPage.tsx'), 'OwnPage');
const CameBack = page(() => import('./areas/own/OwnPage.tsx'), 'CameBack');
const SignInByLink = page(() => import('./frame/SignInByLink.tsx'), 'SignInByLink');
const Invited = page(() => import('./frame/Invited.tsx'), 'Invited');
const RehearsalPage = page(() => import('./areas/setup/RehearsalPage.tsx'), 'RehearsalPage');
const NotFound = page(() => import('./frame/NotFound.tsx'), 'NotFound');

const ROUTES = [
  { path: '/own/back', element: <CameBack /> },
  { path: '/own/:token', element: <OwnPage /> },
  { path: '/stop-letters/:token', element: <StopLettersPage /> },
  { path: '/sign-in/:token', element: <SignInByLink /> },
  { path: '/invited/:token', element: <Invited /> },
  { path: '/rehearsal', element: <RehearsalPage /> },
  {
    element: (
      <Suspense fallback={<FrameLoading />}>
        <Frame />
      </Suspense>
    ),
    children: [
      { path: '/', element: setup('StartPage') },
      { path: '/setup', element: setup('ReadinessPage') },
      { path: '/setup/business', element: setup('BusinessPage') },
      { path: '/setup/look', element: setup('LookPage') },
      { path: '/setup/invoices', element: setup('InvoicesPage') },
      { path: '/setup/customers', element: setup('CustomersSetupPage') },
      { path: '/setup/policies', element: setup('PoliciesPage') },
      { path: '/setup/gateways', element: setup('GatewaysPage') },
      { path: '/setup/gateways/return', element: setup('GatewayReturnPage') },
      { path: '/setup/recovery', element: setup('RecoveryPage') },
      { path: '/setup/recovery/:event', element: <LetterWordsPage /> },
      { path: '/setup/taxes', element: setup('TaxesPage') },
      { path: '/setup/calendar', element: setup('CalendarPage') },
      { path: '/setup/people', element: setup('PeoplePage') },
      { path: '/setup/mail', element: setup('MailPage') },
      { path: '/setup/sites', element: setup('SitesPage') },
      { path: '/setup/security', element: setup('SecurityPage') },
      { path: '/setup/keys', element: setup('KeysPage') },
      { path: '/setup/audit', element: setup('AuditPage') },
      { path: '/me', element: setup('MePage') },
      { path: '/days/:date', element: <DaySheetPage /> },
      { path: '/days/:from/to/:until', element: <SpanPage /> },
      { path: '/plans', element: <PlansPage /> },
      { path: '/plans/new', element: <NewPlanPage /> },
      { path: '/plans/file', element: <OfferFilePage /> },
      { path: '/plans/:id', element: <PlanPage /> },
      { path: '/plans/:id/edit', element: <EditPlanPage /> },
      { path: '/plans/:id/variants/new', element: <VariantPage /> },
      { path: '/plans/:id/variants/:variantId', element: <VariantPage /> },
      { path: '/rate-cards', element: <RateCardsPage /> },
      { path: '/rate-cards/new', element: <RateCardPage /> },
      { path: '/rate-cards/:cardId', element: <RateCardPage /> },
      { path: '/plans/:id/rates/new', element: <RatePage /> },
      { path: '/plans/:id/rates/:rateId', element: <RatePage /> },
      { path: '/plans/:id/rates/:rateId/subscribers', element: <RateSubscribersPage /> },
      { path: '/discounts', element: <DiscountsPage /> },
      { path: '/sign-up-pages', element: <SignUpPagesPage /> },
      { path: '/sign-up-pages/new', element: <NewSignUpPage /> },
      { path: '/sign-up-pages/:id', element: <SignUpPagePage /> },
      { path: '/sign-up-pages/:id/edit', element: <EditSignUpPage /> },
      { path: '/customers', element: <CustomersPage /> },
      { path: '/customers/:id', element: <CustomerPage /> },
      { path: '/subscriptions', element: <SubscriptionsPage /> },
      { path: '/subscriptions/:id', element: <SubscriptionPage /> },
      { path: '/enrol', element: <EnrolPage /> },
      { path: '/drafts', element: <DraftsPage /> },
      { path: '/enrol/several', element: <EnrolManyPage /> },
      { path: '/import', element: <ImportsPage /> },
      { path: '/import/:id', element: <ImportPage /> },
      { path: '/invoices', element: <InvoicesPage /> },
      { path: '/invoices/:id', element: <InvoicePage /> },
      { path: '/credit-notes', element: <CreditNotesPage /> },
      { path: '/payments', element: <PaymentsPage /> },
      { path: '/payments/:id', element: <PaymentPage /> },
      { path: '/customers/:id/take', element: <TakePage /> },
      { path: '/customers/:id/credit', element: <CreditPage /> },
      { path: '/customers/:id/account', element: <AccountPage /> },
      { path: '/cases', element: <CasesPage /> },
      { path: '/expiring-cards', element: <ExpiringCardsPage /> },
      { path: '/recovery-figures', element: <RecoveryFiguresPage /> },
      { path: '/suspensions', element: <SuspensionsPage /> },
      { path: '/ladders', element: <LaddersPage /> },
      { path: '/ladders/new', element: <LadderPage /> },
      { path: '/ladders/what-if', element: <WhatIfPage /> },
      { path: '/ladders/:id', element: <LadderPage /> },
      { path: '/letters', element: <LetterbookPage /> },
      { path: '*', element: <NotFound /> },
    ],
  },
];

/** The page of the address; what breaks stands there until another is gone to. */
function Page() {
  const { pathname } = useLocation();
  const page = useRoutes(ROUTES);
  return (
    <ErrorBoundary FallbackComponent={Broken} resetKeys={[pathname]}>
      {page}
    </ErrorBoundary>
  );
}

const place = document.getElementById('page');
if (place) {
  createRoot(place).render(
    <StrictMode>
      <ChakraProvider value={system}>
        <Suspense fallback={null}>
          <BrowserRouter>
            <Page />
          </BrowserRouter>
        </Suspense>
      </ChakraProvider>
    </StrictMode>,
  );
}
