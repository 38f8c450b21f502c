import { ChakraProvider, Spinner } from '@chakra-ui/react';
import '@fontsource-variable/literata';
import '@fontsource-variable/public-sans';
import { lazy, StrictMode, Suspense } from 'react';
import { createRoot } from 'react-dom/client';
import { createBrowserRouter, RouterProvider } from 'react-router';
import { z } from 'zod';
import { preferredEdition, showEdition } from './frame/edition.ts';
import { system } from './theme.ts';

// The content security policy allows no code made from text, which Zod would otherwise try.
z.config({ jitless: true });
showEdition(preferredEdition());

const Frame = lazy(() => import('./frame/Frame.tsx').then((part) => ({ default: part.Frame })));
const page = (load: () => Promise<Record<string, unknown>>, name: string) =>
  lazy(() => load().then((part) => ({ default: part[name] as React.ComponentType })));

const DaySheetPage = page(() => import('./areas/days/DaySheetPage.tsx'), 'DaySheetPage');
const PlansPage = page(() => import('./areas/plans/PlansPage.tsx'), 'PlansPage');
const NewPlanPage = page(() => import('./areas/plans/NewPlanPage.tsx'), 'NewPlanPage');
const CustomersPage = page(() => import('./areas/customers/CustomersPage.tsx'), 'CustomersPage');
const CustomerPage = page(() => import('./areas/customers/CustomerPage.tsx'), 'CustomerPage');
const SubscriptionsPage = page(
  () => import('./areas/subscriptions/SubscriptionsPage.tsx'),
  'SubscriptionsPage',
);
const SubscriptionPage = page(() => import('./areas/subscriptions/SubscriptionPage.tsx'), 'SubscriptionPage');
const EnrolPage = page(() => import('./areas/subscriptions/EnrolPage.tsx'), 'EnrolPage');
const CasesPage = page(() => import('./areas/recovery/CasesPage.tsx'), 'CasesPage');
const LetterbookPage = page(() => import('./areas/notices/LetterbookPage.tsx'), 'LetterbookPage');
const OwnPage = page(() => import('./areas/own/OwnPage.tsx'), 'OwnPage');
const SignInByLink = page(() => import('./frame/SignInByLink.tsx'), 'SignInByLink');
const NotFound = page(() => import('./frame/NotFound.tsx'), 'NotFound');

const router = createBrowserRouter([
  { path: '/own/:token', element: <OwnPage /> },
  { path: '/sign-in/:token', element: <SignInByLink /> },
  {
    element: <Frame />,
    children: [
      { path: '/', element: <DaySheetPage /> },
      { path: '/days/:date', element: <DaySheetPage /> },
      { path: '/plans', element: <PlansPage /> },
      { path: '/plans/new', element: <NewPlanPage /> },
      { path: '/customers', element: <CustomersPage /> },
      { path: '/customers/:id', element: <CustomerPage /> },
      { path: '/subscriptions', element: <SubscriptionsPage /> },
      { path: '/subscriptions/:id', element: <SubscriptionPage /> },
      { path: '/enrol', element: <EnrolPage /> },
      { path: '/cases', element: <CasesPage /> },
      { path: '/letters', element: <LetterbookPage /> },
      { path: '*', element: <NotFound /> },
    ],
  },
]);

const place = document.getElementById('page');
if (place) {
  createRoot(place).render(
    <StrictMode>
      <ChakraProvider value={system}>
        <Suspense fallback={<Spinner m="8" aria-label="Loading" />}>
          <RouterProvider router={router} />
        </Suspense>
      </ChakraProvider>
    </StrictMode>,
  );
}
