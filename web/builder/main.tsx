import { lazy, StrictMode, Suspense, type ReactNode } from 'react';
import { createRoot } from 'react-dom/client';
import { QueryClientProvider } from '@tanstack/react-query';
import { createBrowserRouter } from 'react-router';
import { RouterProvider } from 'react-router/dom';
import { makeQueryClient } from '../client/query';
import { Skeleton } from '../ui/Notice';
import '../ui/look.css';
import { Gate } from './Gate';

const Hints = lazy(() => import('../ui/Hints'));

const Bench = lazy(() => import('./Bench'));
const Portals = lazy(() => import('./Portals').then(({ Portals: page }) => ({ default: page })));

const Colleagues = lazy(() => import('./Colleagues'));
const Join = lazy(() => import('./Join'));

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
]);

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <QueryClientProvider client={makeQueryClient()}>
      <RouterProvider router={router} />
    </QueryClientProvider>
    <Suspense>
      <Hints />
    </Suspense>
  </StrictMode>,
);
