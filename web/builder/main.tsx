import { lazy, StrictMode, Suspense, type ReactNode } from 'react';
import { createRoot } from 'react-dom/client';
import { QueryClientProvider } from '@tanstack/react-query';
import { createBrowserRouter, Link } from 'react-router';
import { RouterProvider } from 'react-router/dom';
import { benchDoor } from '../client/portal';
import { makeQueryClient } from '../client/query';
import { Skeleton } from '../ui/Notice';
import '../ui/look.css';
import { Gate } from './Gate';

const BesidePages = lazy(() => import('../ui/BesidePages'));

const Bench = lazy(() => import('./Bench'));
const Portals = lazy(() => import('./Portals').then(({ Portals: page }) => ({ default: page })));

const Colleagues = lazy(() => import('./Colleagues'));
const HowTheySignIn = lazy(() => import('./HowTheySignIn'));
const OwnersLog = lazy(() => import('./OwnersLog'));
const OwnSignIn = lazy(() => import('../portal/OwnSignIn'));
const Join = lazy(() => import('./Join'));
const NothingHere = lazy(() => import('../ui/NothingHere').then((part) => ({ default: part.NothingHere })));

const behindGate = (page: ReactNode) => (
  <Gate>
    <Suspense
      fallback={
        <div className="p-6">
          <Skeleton />
        </div>
      }
    >
      {page}
    </Suspense>
  </Gate>
);
const bench = behindGate(<Bench />);

const router = createBrowserRouter([
  { path: '/', element: behindGate(<Portals />) },
  { path: '/colleagues', element: behindGate(<Colleagues />) },
  { path: '/colleagues/sign-in', element: behindGate(<HowTheySignIn />) },
  { path: '/colleagues/log', element: behindGate(<OwnersLog />) },
  { path: '/own', element: behindGate(<OwnSignIn base={benchDoor} back={<Link to="/">Portals</Link>} />) },
  {
    path: '/join',
    element: (
      <Suspense>
        <Join />
      </Suspense>
    ),
  },
  { path: '/build/:slug', element: bench },
  { path: '/build/:slug/:stage', element: bench },
  { path: '/build/:slug/:stage/:object', element: bench },
  // Whoever is not in is asked to sign in wherever they are.
  { path: '/sign-in', element: behindGate(<Portals />) },
  {
    path: '*',
    element: (
      <Suspense>
        <NothingHere to="/" back="To the portals" />
      </Suspense>
    ),
  },
]);

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <QueryClientProvider client={makeQueryClient()}>
      <RouterProvider router={router} />
    </QueryClientProvider>
    <Suspense>
      <BesidePages />
    </Suspense>
  </StrictMode>,
);
